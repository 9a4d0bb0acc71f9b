import { Button, Select, TextInput } from "@mantine/core";
import { useSessionStorage } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, type Schemas, unwrap } from "../../api/client";
import { newId, sentAt } from "../../api/ids";
import { batchesOptions, platesOptions, printersOptions, printPlanOptions } from "../../api/queries/printing";
import { studyOptions } from "../../api/queries/studies";
import { dossierOptions } from "../../api/queries/stock";
import { Empty, ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { Questions } from "../../ui/Questions";
import { ArmSwatch, armWords } from "../../ui/Swatch";
import { useAsking } from "../../ui/useAsking";
import { StudyHead } from "../studies/StudyHead";
import { LayOut } from "./LayOut";
import { Plates } from "./Plates";
import { Printed } from "./Printed";
import { Spares } from "./Spares";
import css from "./printing.module.css";
import { AFTER_PRINTING, roomOf, type Surroundings } from "./surroundings";
import { amount } from "../../ui/format";

/** What of a study is to be printed: said arm by arm, once it lies on the bed. */
export function PrintPage() {
  const { studyId } = useParams({ from: "/studies/$studyId/print" });
  const study = useQuery(studyOptions(studyId));
  const plan = useQuery(printPlanOptions(studyId));
  const printers = useQuery(printersOptions());
  const batches = useQuery(batchesOptions(studyId));
  const [fresh, setFresh] = useState<readonly string[]>([]);
  const [job, setJob] = useSessionStorage<Surroundings>({ key: `assayer.printing.${studyId}`, defaultValue: { printer: null, nozzle: "", room: "" }, getInitialValueInEffect: false });
  const plates = useQuery(platesOptions(studyId));
  if (study.isError || plan.isError || plates.isError) return <ErrorNote error={study.error ?? plan.error ?? plates.error} again={() => void plan.refetch()} />;
  if (study.isPending || plan.isPending || plates.isPending) return <Waiting what="Reading what is to be printed …" />;
  const open = plan.data.arms.filter((a) => a.tests.some((t) => t.waiting || t.again.length));
  const onPrinted = (batch: Schemas["BatchView"]) => setFresh((before) => [batch.id, ...before]);
  const onPlates = plates.data.plates.some((p) => p.batch_id === null);
  return (
    <div className="page">
      <StudyHead study={study.data} />
      <Spares study={study.data} spares={plates.data.spares} />
      {(open.length > 0 || onPlates) && <Around job={job} setJob={setJob} />}
      {onPlates && <Plates study={study.data} list={plates.data} job={job} onPrinted={onPrinted} />}
      {plates.data.unplaced > 0 && <LayOut study={study.data} unplaced={plates.data.unplaced} printers={printers.data?.items ?? []} />}
      {open.length ? (
        <>
          <div className={css.without}>
            <h2>Or printed without a plate</h2>
            <Select
              aria-label="on the printer"
              placeholder="on no printer named"
              clearable
              value={job.printer}
              onChange={(printer) => setJob({ ...job, printer })}
              data={(printers.data?.items ?? []).map((p) => ({ value: p.id, label: `on ${p.name}` }))}
              w={220}
            />
          </div>
          <ul className={css.arms} aria-label="To print">
            {open.map((toPrint) => {
              const arm = study.data.arms.find((a) => a.id === toPrint.arm_id);
              return arm && <Job key={arm.id} arm={arm} plan={toPrint} job={job} onPrinted={onPrinted} />;
            })}
          </ul>
        </>
      ) : onPlates ? null : batches.data?.items.length ? (
        <p className="soft">
          Everything planned has been printed; the specimens wait on <Link to="/bench">the bench</Link>. What is left out there, or did not come off the plate well, can be printed again from here.
        </p>
      ) : (
        <Empty within title="Everything planned has been printed">
          The specimens wait on <Link to="/bench">the bench</Link>. What is left out there, or did not come off the plate well, can be printed again from here.
        </Empty>
      )}
      <Printed study={study.data} batches={batches.data?.items ?? []} plates={plates.data} fresh={fresh} />
    </div>
  );
}

/** Through which nozzle and in what room it is printed: said once for the batches that follow. */
function Around({ job, setJob }: { job: Surroundings; setJob: (job: Surroundings) => void }) {
  return (
    <div className={css.around}>
      <TextInput label="through the nozzle" placeholder="such as hardened 0.4" value={job.nozzle} onChange={(e) => setJob({ ...job, nozzle: e.currentTarget.value })} maxLength={80} w={200} />
      <TextInput label="in a room of, °C" inputMode="decimal" value={job.room} error={roomOf(job.room) === undefined ? "a number" : null} onChange={(e) => setJob({ ...job, room: e.currentTarget.value })} w={150} />
    </div>
  );
}

interface JobProps {
  arm: Schemas["ArmView"];
  plan: Schemas["ArmToPrint"];
  job: Surroundings;
  onPrinted: (batch: Schemas["BatchView"]) => void;
}

/** One arm: what of it goes onto the bed, from which spool, and saying that it is printed. */
function Job({ arm, plan, job, onPrinted }: JobProps) {
  const { spools, spool, choose } = useSpool(arm, plan);
  const { print, busy, asking } = usePrint(arm.id, spool, job, onPrinted);
  const waiting = plan.tests.reduce((n, t) => n + t.waiting, 0);
  const again = plan.tests.flatMap((t) => t.again);
  const mass = plan.tests.every((t) => t.mass_each !== null) ? plan.tests.reduce((m, t) => m + t.waiting * (t.mass_each ?? 0), 0) : null;
  return (
    <li className={css.arm} aria-label={`${arm.material.maker} ${arm.material.product}`}>
      <ArmSwatch arm={arm} size={40} />
      <div>
        <strong>
          {arm.material.maker} {arm.material.product}
        </strong>
        <span className="soft">
          {" "}
          · {arm.material.colour}
          {armWords(arm) && ` · ${armWords(arm)}`}
        </span>
        <Bed tests={plan.tests} />
        <Questions
          questions={asking.questions}
          onLikely={(q) => asking.drop(q)}
          onConfirm={(q) => {
            const { keys, last } = asking.confirm(q);
            if (last) void print([], keys);
          }}
        />
        <Refusal text={asking.problem?.text} />
      </div>
      <Select
        label="from spool"
        size="sm"
        w={210}
        value={spool ?? "none"}
        onChange={(v) => choose(v === "none" ? null : v)}
        data={[...spools.map((s) => ({ value: s.id, label: `${s.code}, ${s.left === null ? "?" : amount(s.left, "g", 0)} left` })), { value: "none", label: "none named" }]}
        allowDeselect={false}
      />
      <div className={css.act}>
        {waiting > 0 && (
          <Button variant="default" loading={busy} onClick={() => void print([])}>
            {waiting} printed
          </Button>
        )}
        {again.length > 0 && (
          <Button variant="default" loading={busy} onClick={() => void print(again)}>
            {again.length} printed again
          </Button>
        )}
        {waiting > 0 && <span className="soft">{mass === null ? "mass not known" : `takes ${amount(mass, "g", 0)}`}</span>}
      </div>
    </li>
  );
}

/** The spool that is named for an arm: the planned one until another is chosen; null for none. */
function useSpool(arm: Schemas["ArmView"], plan: Schemas["ArmToPrint"]) {
  const dossier = useQuery(dossierOptions(arm.material.id));
  const spools = (dossier.data?.spools ?? []).filter((s) => !s.gone_at && s.decision !== "reject");
  const [chosen, choose] = useState<string | null | undefined>(undefined);
  const spool = chosen === undefined ? (spools.find((s) => s.id === plan.spool_id)?.id ?? null) : chosen;
  return { spools, spool, choose };
}

/** Saying that it is printed: the whole arm, or single places that were left out. */
function usePrint(armId: string, spoolId: string | null, job: Surroundings, onPrinted: (batch: Schemas["BatchView"]) => void) {
  const queries = useQueryClient();
  const [id, setId] = useState(() => newId());
  const [busy, setBusy] = useState(false);
  const asking = useAsking();
  const print = async (slots: string[], confirmed: string[] = asking.confirmed) => {
    setBusy(true);
    await asking.attempt(async () => {
      const batch = unwrap<Schemas["BatchView"]>(
        await client.POST("/api/batches", {
          body: { id, plate_id: null, mass: null, purge: 0, besides: [], arm_id: armId, test_ids: [], slot_ids: slots, spool_id: spoolId, printer_id: job.printer, nozzle: job.nozzle.trim(), room: roomOf(job.room) ?? null, printed_at: sentAt(id), confirmed },
        }),
      );
      setId(newId());
      onPrinted(batch);
      refresh(queries, ...AFTER_PRINTING);
    });
    setBusy(false);
  };
  return { print, busy, asking };
}

/** The pieces as they lie on the bed, those to be printed again told apart. */
function Bed({ tests }: { tests: Schemas["ArmToPrint"]["tests"] }) {
  return (
    <ul className={css.bed}>
      {tests
        .filter((t) => t.waiting || t.again.length)
        .map((t) => (
          <li key={t.test_id}>
            <span className={css.pieces} aria-hidden="true">
              {Array.from({ length: Math.min(t.waiting, 12) }, (_, i) => (
                <i key={i} />
              ))}
              {Array.from({ length: Math.min(t.again.length, 12) }, (_, i) => (
                <i key={`again${String(i)}`} data-again />
              ))}
            </span>
            <span>
              {t.waiting > 0 && <span className="figure">{t.waiting}</span>} {t.label}
              {t.again.length > 0 && <span style={{ color: "var(--caution)" }}> · {t.again.length} left out</span>}
            </span>
          </li>
        ))}
    </ul>
  );
}
