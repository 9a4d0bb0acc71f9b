import { Button } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { Fragment, useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { gcodeOptions } from "../../api/queries/dialIn";
import { fitOptions } from "../../api/queries/printing";
import { PlateDrawing } from "../../figures/PlateDrawing";
import { amount, atMinute, durationWords } from "../../ui/format";
import { ArmSwatch, armWords } from "../../ui/Swatch";
import { GcodeTaking } from "../dial_in/GcodeTaking";
import { PlatePrinted } from "./PlatePrinted";
import { lyingOn } from "./plates";
import css from "./printing.module.css";
import type { Surroundings } from "./surroundings";

type Study = Schemas["StudyView"];
type Plate = Schemas["PlateView"];
type Layout = Schemas["PlateLayout"];

interface OneProps {
  study: Study;
  plate: Plate;
  layout: Layout;
  next: boolean;
  job: Surroundings;
  onPrinted: (batch: Schemas["BatchView"]) => void;
}

/** One plate: drawn to scale, what it is printed from and why now, and saying that it is printed. */
export function OnePlate({ study, plate, layout, next, job, onPrinted }: OneProps) {
  const arm = study.arms.find((a) => a.id === plate.arm_id);
  if (!arm) return null;
  const lying = lyingOn(layout);
  const others = layout.plates.filter((n) => n !== plate.number);
  const spares = layout.pieces.filter((p) => p.spare).length;
  return (
    <div className={css.plate}>
      <div>
        <PlateDrawing layout={layout} width={460} label={`Plate ${String(plate.number)}: ${lying}`} />
        <p className="soft" style={{ margin: "0.3rem 0 0" }}>
          {amount(layout.bed.width, "mm", 0)} × {amount(layout.bed.depth, "mm", 0)}, front below · {lying}
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
            <Sunk plate={plate} layout={layout} />
            {others.length > 0 && <span className="soft">the same file as {others.length > 1 ? "plates" : "plate"} {others.slice(0, 6).join(", ")}{others.length > 6 && " …"}: one serves all, whatever the material</span>}
          </dd>
          <dt>G-code</dt>
          <dd>
            <Attached plate={plate} />
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

/** The codes in its pieces; asked for before it is printed, the plate then has a file of its own. */
function Sunk({ plate, layout }: { plate: Plate; layout: Layout }) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const codes = layout.pieces.flatMap((p) => (p.code ? [p.code] : []));
  const roomy = layout.kinds.some((k) => k.takes_code);
  if (codes.length) return <span className="soft">sunk into them: {codes.join(", ")}</span>;
  if (!roomy) return null;
  const sink = async () => {
    try {
      unwrap(await client.POST("/api/plates/{plate_id}/codes", { params: { path: { plate_id: plate.id } } }));
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
    refresh(queries, "/api/studies/{study_id}/plates");
  };
  return (
    <>
      <Button size="compact-sm" variant="subtle" title="instead of the numbers of their places; this plate then has a file of its own" onClick={() => void sink()}>
        with their codes in relief
      </Button>
      {problem && <span className={css.line} role="alert" style={{ color: "var(--worse)" }}>{problem}</span>}
    </>
  );
}

/** Whether its spool, its printer and its sheet go together, and how dry the spool is. */
function Fit({ plate }: { plate: Plate }) {
  const { spool } = plate;
  const fit = useQuery({ ...fitOptions({ spool_id: spool?.id ?? "", printer_id: plate.printer_id, settings: { adhesive: "", mass: plate.mass } }, plate.id), enabled: spool !== null });
  if (!spool) return <span className="soft"> · no spool of it is at hand</span>;
  const must = fit.data?.misses.filter((m) => m.level === "must") ?? [];
  const mind = fit.data?.misses.filter((m) => m.level !== "must") ?? [];
  const told = fit.isPending || [...must, ...mind].some((m) => m.text.includes(spool.moisture));
  const dry = [
    !told && spool.moisture,
    spool.stale && <strong style={{ color: "var(--caution)" }}>dry it first</strong>,
    spool.dry_until && `dry enough until ${atMinute(spool.dry_until)}`,
  ].filter(Boolean);
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
        {dry.map((part, i) => (
          <Fragment key={i}>
            {i > 0 && " · "}
            {part}
          </Fragment>
        ))}
      </span>
    </>
  );
}

/** The file it is printed from: attached here, inspected, held against the sheet of its arm. */
function Attached({ plate }: { plate: Plate }) {
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
          refresh(queries, "/api/studies/{study_id}/plates");
        }}
      />
    );
  }
  return (
    <>
      <Link to="/dial-in/gcode/$fileId" params={{ fileId: file.id }}>
        {file.name}
      </Link>{" "}
      <Button size="compact-sm" variant="subtle" onClick={() => setAnother(true)}>
        another file
      </Button>
      <Against fileId={file.id} />
    </>
  );
}

/** Where the file does something else than the sheet says. */
function Against({ fileId }: { fileId: string }) {
  const found = useQuery(gcodeOptions(fileId));
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
