import { Button, Select } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { printPlanOptions } from "../../api/queries/printing";
import { studyOptions } from "../../api/queries/studies";
import { dossierOptions } from "../../api/queries/stock";
import { Empty, ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { Questions } from "../../ui/Questions";
import { ArmSwatch } from "../../ui/Swatch";
import { useAsking } from "../../ui/useAsking";
import { StudyHead } from "../studies/StudyHead";
import css from "./printing.module.css";
import { amount } from "../../ui/format";

/** What of a study is to be printed: said arm by arm, once it lies on the bed. */
export function PrintPage() {
  const { studyId } = useParams({ from: "/studies/$studyId/print" });
  const study = useQuery(studyOptions(studyId));
  const plan = useQuery(printPlanOptions(studyId));
  const [printed, setPrinted] = useState<Schemas["BatchView"][]>([]);
  if (study.isError || plan.isError) return <ErrorNote error={study.error ?? plan.error} again={() => void plan.refetch()} />;
  if (study.isPending || plan.isPending) return <Waiting what="Reading what is to be printed …" />;
  const open = plan.data.arms.filter((a) => a.tests.some((t) => t.waiting || t.again.length));
  return (
    <div className="page">
      <StudyHead study={study.data} />
      {open.length ? (
        <ul className={css.arms} aria-label="To print">
          {open.map((toPrint) => {
            const arm = study.data.arms.find((a) => a.id === toPrint.arm_id);
            return arm && <Job key={arm.id} arm={arm} plan={toPrint} onPrinted={(batch) => setPrinted((before) => [batch, ...before])} />;
          })}
        </ul>
      ) : (
        <Empty within title="Everything planned has been printed">
          The specimens wait on <Link to="/bench">the bench</Link>. What is left out there can be printed again from here.
        </Empty>
      )}
      {printed.map((batch) => {
        const arm = study.data.arms.find((a) => a.id === batch.arm_id);
        return (
          <section key={batch.id} className={css.done} role="status">
            <h2>
              {arm?.material.maker} {arm?.material.product}: {batch.specimens.length} specimens have their codes
            </h2>
            <p className="soft">
              Write each code on its specimen before they leave the bed, in the order of printing.
              {batch.mass !== null && ` ${amount(batch.mass, "g", 0)} were taken from ${batch.spool_code ?? "the spool"}.`}
            </p>
            <ol className={css.codes}>
              {batch.specimens.map((s) => (
                <li key={s.id}>
                  <span className="figure">{s.code}</span>
                  <span className="soft">{study.data.tests.find((t) => t.id === s.test_id)?.label}</span>
                </li>
              ))}
            </ol>
          </section>
        );
      })}
    </div>
  );
}

interface JobProps {
  arm: Schemas["ArmView"];
  plan: Schemas["ArmToPrint"];
  onPrinted: (batch: Schemas["BatchView"]) => void;
}

/** One arm: what of it goes onto the bed, from which spool, and saying that it is printed. */
function Job({ arm, plan, onPrinted }: JobProps) {
  const { spools, spool, choose } = useSpool(arm, plan);
  const { print, busy, asking } = usePrint(arm.id, spool, onPrinted);
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
          {arm.treatment && ` · ${arm.treatment}`}
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
          <Button loading={busy} onClick={() => void print([])}>
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
function usePrint(armId: string, spoolId: string | null, onPrinted: (batch: Schemas["BatchView"]) => void) {
  const queries = useQueryClient();
  const [id, setId] = useState(() => newId());
  const [busy, setBusy] = useState(false);
  const asking = useAsking();
  const print = async (slots: string[], confirmed: string[] = asking.confirmed) => {
    setBusy(true);
    await asking.attempt(async () => {
      const batch = unwrap<Schemas["BatchView"]>(
        await client.POST("/api/batches", { body: { id, arm_id: armId, test_ids: [], slot_ids: slots, spool_id: spoolId, printed_at: new Date().toISOString(), confirmed } }),
      );
      setId(newId());
      onPrinted(batch);
      refresh(queries, "/api/studies/{study_id}/print-plan", "/api/studies/{study_id}/board", "/api/studies", "/api/bench", "/api/tests/{test_id}/queue", "/api/day", "/api/spools/{spool_id}", "/api/materials/{material_id}", "/api/stock", "/api/racks/{rig_id}");
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
