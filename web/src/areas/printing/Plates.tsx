import { Button, NumberInput, Select, Switch } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { fitOptions } from "../../api/queries/printing";
import { PlateDrawing } from "../../figures/PlateDrawing";
import { amount, atMinute } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import { ArmSwatch, armWords } from "../../ui/Swatch";
import { GcodeTaking } from "../dial_in/GcodeTaking";
import css from "./printing.module.css";
import { PlatePrinted } from "./PlatePrinted";
import { AFTER_PRINTING, type Surroundings } from "./surroundings";
import { durationWords, takes } from "./plates";

type Study = Schemas["StudyView"];
type Plate = Schemas["PlateView"];
type Layout = Schemas["PlateLayout"];

interface PlatesProps {
  study: Study;
  list: Schemas["PlateList"];
  job: Surroundings;
  onPrinted: (batch: Schemas["BatchView"]) => void;
}

/** What lies on plates: the one that is next, and those after it. */
export function Plates({ study, list, job, onPrinted }: PlatesProps) {
  const waiting = list.plates.filter((p) => p.batch_id === null);
  const [picked, setPicked] = useState<string | null>(null);
  const first = waiting[0];
  const shown = waiting.find((p) => p.id === picked) ?? first;
  const layout = list.layouts.find((l) => l.key === shown?.layout);
  const back = useTakingBack(study.id);
  if (!shown || !layout || !first) return null;
  return (
    <section aria-label="Plates" className={css.plates}>
      <OnePlate key={shown.id} study={study} plate={shown} layout={layout} next={shown.id === first.id} job={job} onPrinted={onPrinted} />
      <div className={css.queueHead}>
        <h2>
          {waiting.length} {waiting.length === 1 ? "plate waits" : "plates wait"}
        </h2>
        <span className="soft">
          {takes(waiting)} · in random order, all first batches before all second ones
        </span>
        <a href={`/api/studies/${study.id}/plates.zip`} download>
          All files with a list (zip)
        </a>
        <Button variant="subtle" size="compact-sm" onClick={() => void back.act()}>
          Take them back
        </Button>
      </div>
      <Refusal text={back.problem} />
      <ol className={css.queue} aria-label="Plates in the order of printing">
        {waiting.slice(0, SHOWN).map((p) => (
          <Queued key={p.id} plate={p} arm={study.arms.find((a) => a.id === p.arm_id)} layout={list.layouts.find((l) => l.key === p.layout)} chosen={p.id === shown.id} onChoose={() => setPicked(p.id)} />
        ))}
        {waiting.length > SHOWN && <li className="soft">and {waiting.length - SHOWN} more after them</li>}
      </ol>
    </section>
  );
}

/** Plates ahead that are drawn: who has more of them looks at the list. */
const SHOWN = 48;

function Queued({ plate, arm, layout, chosen, onChoose }: { plate: Plate; arm: Study["arms"][number] | undefined; layout: Layout | undefined; chosen: boolean; onChoose: () => void }) {
  return (
    <li>
      <button type="button" aria-pressed={chosen} onClick={onChoose} aria-label={`Plate ${String(plate.number)}: ${arm?.material.product ?? ""} ${arm ? armWords(arm) : ""}, batch ${String(plate.part)}`}>
        {layout && <PlateDrawing layout={layout} width={76} label={`plate ${String(plate.number)}`} />}
        <span>
          {arm && <ArmSwatch arm={arm} size={22} />} <span className="figure">{plate.number}</span>
        </span>
        <span className="soft">{durationWords(plate.minutes)}</span>
      </button>
    </li>
  );
}

interface OneProps {
  study: Study;
  plate: Plate;
  layout: Layout;
  next: boolean;
  job: Surroundings;
  onPrinted: (batch: Schemas["BatchView"]) => void;
}

/** One plate: drawn to scale, what it is printed from and why now, and saying that it is printed. */
function OnePlate({ study, plate, layout, next, job, onPrinted }: OneProps) {
  const arm = study.arms.find((a) => a.id === plate.arm_id);
  if (!arm) return null;
  const kinds = new Map<string, number>();
  for (const p of layout.pieces) kinds.set(p.kind, (kinds.get(p.kind) ?? 0) + 1);
  const others = layout.plates.filter((n) => n !== plate.number);
  const spares = layout.pieces.filter((p) => p.spare).length;
  return (
    <div className={css.plate}>
      <div>
        <PlateDrawing layout={layout} width={460} label={`Plate ${String(plate.number)}: ${[...kinds].map(([kind, n]) => `${String(n)} × ${kind}`).join("; ")}`} />
        <p className="soft" style={{ margin: "0.3rem 0 0" }}>
          {amount(layout.bed.width, "mm", 0)} × {amount(layout.bed.depth, "mm", 0)}, front below · {[...kinds].map(([kind, n]) => `${String(n)} × ${kind}`).join("; ")}
          {spares > 0 && ` · ${String(spares)} of them spare, dashed`}
        </p>
      </div>
      <div className={css.about}>
        <p className="soft" style={{ margin: 0 }}>
          {next ? "Next on the bed" : "Not the next one"} · plate {plate.number}: {plate.why}
        </p>
        <h2>
          <ArmSwatch arm={arm} size={40} /> {arm.material.maker} {arm.material.product}
          <span className="soft">
            {" "}
            {arm.material.colour}
            {armWords(arm) && ` · ${armWords(arm)}`}
          </span>
        </h2>
        <dl className={css.facts}>
          <dt>batch</dt>
          <dd>
            {plate.part} of {plate.parts}
          </dd>
          <dt>takes</dt>
          <dd>
            {plate.mass === null ? "mass not known" : amount(plate.mass, "g", 0)}, {durationWords(plate.minutes)}
            <span className="soft"> {plate.file ? "by its file" : "estimated"}</span>
          </dd>
          <dt>sheet</dt>
          <dd>
            <Link to="/dial-in/sheets/$sheetId" params={{ sheetId: plate.sheet_id }}>
              {plate.sheet}
            </Link>
          </dd>
          <dt>solids</dt>
          <dd>
            {(["3mf", "stl", "svg"] as const).map((kind) => (
              <a key={kind} href={`/api/plates/${plate.id}/plate.${kind}`} download>
                {kind === "svg" ? "drawing" : kind.toUpperCase()}
              </a>
            ))}
            {others.length > 0 && <span className="soft">the same file as plate {others.slice(0, 6).join(", ")}{others.length > 6 && " …"}: one serves all, whatever the material</span>}
          </dd>
          <dt>G-code</dt>
          <dd>
            <Attached plate={plate} studyId={study.id} />
          </dd>
          <dt>printer</dt>
          <dd>
            {plate.printer}
            <Fit plate={plate} />
          </dd>
          {layout.evenness < 0.6 && (
            <>
              <dt>layers</dt>
              <dd style={{ color: "var(--caution)" }}>above the lower pieces a layer takes {Math.round(100 * layout.evenness)} % of the time below: it cools less. Pieces of one height a plate, or one after another, are more even.</dd>
            </>
          )}
        </dl>
        <PlatePrinted arm={arm} plate={plate} job={job} onPrinted={onPrinted} />
      </div>
    </div>
  );
}

/** Whether its spool, its printer and its sheet go together, and how dry the spool is. */
function Fit({ plate }: { plate: Plate }) {
  const { spool } = plate;
  const fit = useQuery({ ...fitOptions({ spool_id: spool?.id ?? "", printer_id: plate.printer_id, settings: { adhesive: "", mass: plate.mass } }, plate.id), enabled: spool !== null });
  if (!spool) return <span className="soft"> · no spool of it is at hand</span>;
  const must = fit.data?.misses.filter((m) => m.level === "must") ?? [];
  const mind = fit.data?.misses.filter((m) => m.level !== "must") ?? [];
  return (
    <>
      {fit.data && !must.length && <span style={{ color: "var(--better)" }}> · ✓ {mind.length ? "may be printed, knowingly," : "fit to print"} from {spool.code}</span>}
      {must.map((m) => (
        <span key={m.rule} className={css.line} style={{ color: "var(--worse)" }}>
          ✕ {m.text}
        </span>
      ))}
      {mind.map((m) => (
        <span key={m.rule} className={css.line} style={{ color: "var(--caution)" }}>
          mind: {m.text}
        </span>
      ))}
      <span className={css.line}>
        {spool.moisture}
        {spool.stale && <strong style={{ color: "var(--caution)" }}> · dry it first</strong>}
        {spool.dry_until && <> · dry enough until {atMinute(spool.dry_until)}</>}
      </span>
    </>
  );
}

/** The file it is printed from: attached here, inspected, held against the sheet of its arm. */
function Attached({ plate, studyId }: { plate: Plate; studyId: string }) {
  const queries = useQueryClient();
  const { file } = plate;
  const [another, setAnother] = useState(false);
  if (!file || another) {
    return (
      <GcodeTaking
        compact
        madeFor={{ plate: plate.id }}
        onDone={() => {
          setAnother(false);
          void queries.invalidateQueries({ queryKey: ["get", "/api/studies/{study_id}/plates", { params: { path: { study_id: studyId } } }] });
        }}
      />
    );
  }
  return (
    <>
      <Link to="/dial-in/gcode/$fileId" params={{ fileId: file.id }}>
        {file.name}
      </Link>{" "}
      <Button size="compact-xs" variant="subtle" onClick={() => setAnother(true)}>
        another file
      </Button>
      <Against fileId={file.id} />
    </>
  );
}

function Against({ fileId }: { fileId: string }) {
  const found = useQuery({ queryKey: ["gcode against its sheet", fileId], queryFn: async () => unwrap<Schemas["GcodeView"]>(await client.GET("/api/gcode/{file_id}", { params: { path: { file_id: fileId } } })) });
  if (!found.data) return null;
  if (!found.data.findings.length) return <span className={css.line} style={{ color: "var(--better)" }}>✓ it does what the sheet says</span>;
  return (
    <>
      {found.data.findings.map((f) => (
        <span key={f.about + f.text} className={css.line} style={{ color: "var(--worse)" }}>
          ≠ {f.text}
        </span>
      ))}
    </>
  );
}

function useTakingBack(studyId: string) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const act = async () => {
    try {
      unwrap(await client.DELETE("/api/studies/{study_id}/plates", { params: { path: { study_id: studyId } } }));
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
    refresh(queries, ...AFTER_PRINTING);
  };
  return { act, problem };
}

/** Laying out what lies on no plate yet. */
export function LayOut({ study, unplaced, printers }: { study: Study; unplaced: number; printers: readonly Schemas["PrinterView"][] }) {
  const queries = useQueryClient();
  const sized = printers.filter((p) => p.build_x !== null && p.build_y !== null && p.build_z !== null);
  const [printer, setPrinter] = useState<string | null>(null);
  const [one_by_one, setOneByOne] = useState(false);
  const [batches, setBatches] = useState(2);
  const [brim, setBrim] = useState(5);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const chosen = printer ?? sized[0]?.id ?? null;
  const lay = async () => {
    if (!chosen) return;
    setBusy(true);
    try {
      unwrap(await client.POST("/api/studies/{study_id}/plates", { params: { path: { study_id: study.id } }, body: { printer_id: chosen, one_by_one, batches, brim, spares: true } }));
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
    refresh(queries, ...AFTER_PRINTING);
    setBusy(false);
  };
  return (
    <form
      className={css.layout}
      aria-label="Lay out on plates"
      onSubmit={(e) => {
        e.preventDefault();
        void lay();
      }}
    >
      <h2>
        {unplaced} {unplaced === 1 ? "specimen lies" : "specimens lie"} on no plate
      </h2>
      {sized.length ? (
        <div className={css.around}>
          <Select label="plates for the printer" value={chosen} onChange={setPrinter} data={sized.map((p) => ({ value: p.id, label: `${p.name}, ${String(p.build_x)} × ${String(p.build_y)} mm` }))} allowDeselect={false} w={270} />
          <NumberInput label="each material in" suffix={batches === 1 ? " batch" : " batches"} value={batches} min={1} max={6} allowDecimal={false} onChange={(v) => setBatches(Number(v) || 2)} w={140} title="what differs from print to print is seen only where there are two" />
          <NumberInput label="brim, mm" value={brim} min={0} max={30} onChange={(v) => setBrim(Number(v) || 0)} w={110} title="around pieces that want one to stand" />
          <Switch label="one after another" checked={one_by_one} onChange={(e) => setOneByOne(e.currentTarget.checked)} title="each piece is finished before the next is begun: every layer takes the same time" mt={28} />
          <Button type="submit" loading={busy} mt={22}>
            Lay them out
          </Button>
        </div>
      ) : (
        <p>
          No printer says how large a part it builds: say it under <Link to="/dial-in/hardware">hardware</Link>, then plates can be laid out. Specimens can be printed one by one without.
        </p>
      )}
      {busy && <p role="status">Laying out {unplaced} specimens …</p>}
      <Refusal text={problem} />
    </form>
  );
}
