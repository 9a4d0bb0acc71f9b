import { Button } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { type PlaceMark, PlateDrawing } from "../../figures/PlateDrawing";
import { amount, atMinute, count, durationWords, fromToMinute } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import { ArmSwatch, armWords } from "../../ui/Swatch";
import { Photos } from "../photos/Photos";
import { Refile, Treatment } from "./Misprint";
import css from "./printing.module.css";
import { AFTER_PRINTING } from "./surroundings";

type Batch = Schemas["BatchView"];
type Outcome = Batch["specimens"][number]["outcome"];

const OUTCOMES: readonly { name: Outcome; mark: string }[] = [
  { name: "good", mark: "" },
  { name: "failed", mark: "✕" },
  { name: "would not stick", mark: "~" },
  { name: "misprinted", mark: "≠" },
];

/** What was printed, the newest first: every specimen with its code, and one tap to say that it did not come out. */
export function Printed({ study, batches, plates, fresh }: { study: Schemas["StudyView"]; batches: readonly Batch[]; plates: Schemas["PlateList"]; fresh: readonly string[] }) {
  const [tool, setTool] = useState<Outcome>("misprinted");
  const [fault, setFault] = useState("");
  if (!batches.length) return null;
  return (
    <section className={css.done} aria-label="Printed">
      <h2>Printed</h2>
      <div className={css.tools} role="group" aria-label="How it came off the plate">
        <span>A touch says:</span>
        {OUTCOMES.map((o) => (
          <button key={o.name} type="button" aria-pressed={tool === o.name} onClick={() => setTool(o.name)}>
            {o.mark} {o.name}
          </button>
        ))}
        {tool !== "good" && <input className={css.fault} aria-label="What was wrong" placeholder="what was wrong, such as: wrong infill" value={fault} maxLength={80} onChange={(e) => setFault(e.currentTarget.value)} />}
      </div>
      {batches.map((batch) => (
        <BatchOf key={batch.id} batch={batch} layout={layoutOf(plates, batch)} study={study} fresh={fresh.includes(batch.id)} tool={tool} fault={fault} />
      ))}
    </section>
  );
}

const layoutOf = (plates: Schemas["PlateList"], batch: Batch) => {
  const plate = plates.plates.find((p) => p.id === batch.plate_id);
  return plates.layouts.find((l) => l.key === plate?.layout);
};

interface BatchProps {
  batch: Batch;
  layout: Schemas["PlateLayout"] | undefined;
  study: Schemas["StudyView"];
  fresh: boolean;
  tool: Outcome;
  fault: string;
}

function BatchOf({ batch, layout, study, fresh, tool, fault }: BatchProps) {
  const { judge, problem } = useJudging(batch);
  const arm = study.arms.find((a) => a.id === batch.arm_id);
  const good = batch.specimens.filter((s) => s.outcome === "good").length;
  const told = [
    whenPrinted(batch),
    batch.printer && `on ${batch.printer}`,
    batch.nozzle,
    batch.spool_code && `from ${batch.spool_code}${batch.mass === null ? "" : `, ${amount(batch.mass, "g", 0)}`}`,
    batch.purge > 0 && `of it ${amount(batch.purge, "g", 0)} purged`,
    ...batch.besides.map((b) => `${amount(b.mass, "g", 0)} of ${b.spool_code} beside`),
    batch.minutes !== null && `took ${durationWords(batch.minutes)}`,
    batch.room !== null && `room ${amount(batch.room, "°C", 0)}`,
  ].filter(Boolean);
  const touch = (position: number) => {
    const s = batch.specimens.find((x) => x.position === position);
    if (s && !s.tested) void judge([s.id], s.outcome === tool && tool !== "good" ? "good" : tool, fault);
  };
  const untested = batch.specimens.filter((s) => !s.tested);
  return (
    <div className={css.batch} role={fresh ? "status" : undefined}>
      <h3>
        {arm && <ArmSwatch arm={arm} size={24} />} {arm?.material.maker} {arm?.material.product}
        {arm && armWords(arm) && `, ${armWords(arm)}`}: {fresh ? `${count(batch.specimens.length, "specimen")} with ${batch.specimens.length === 1 ? "its code" : "their codes"}` : `${String(good)} of ${String(batch.specimens.length)} good`}
      </h3>
      <p className="soft">
        {told.join(" · ")}
        {fresh && ". Write each code on its specimen before they leave the bed, in the order of printing."}
      </p>
      <div className={css.how}>
        {tool !== "good" && untested.length > 1 && (
          <Button size="compact-sm" variant="default" onClick={() => void judge(untested.map((s) => s.id), tool, fault)}>
            Say it of all {untested.length}: {tool}
          </Button>
        )}
        <Treatment batch={batch} />
        <Refile batch={batch} study={study} />
      </div>
      <div className={css.body}>
      {layout && <PlateDrawing close layout={layout} width={560} label={`Plate of ${arm?.mark ?? ""}, as it was printed`} marks={marksOf(batch, study)} onTouch={touch} />}
      <ol className={css.codes}>
        {batch.specimens.map((s) => {
          const test = study.tests.find((t) => t.id === s.test_id);
          const state = OUTCOMES.find((o) => o.name === s.outcome);
          const next = s.outcome === tool && tool !== "good" ? "good" : tool;
          return (
            <li key={s.id}>
              <button
                type="button"
                className={css.piece}
                data-outcome={s.outcome}
                disabled={s.tested}
                title={s.tested ? "tested: leave its run out at the bench instead" : `says: ${next}`}
                onClick={() => void judge([s.id], next, fault)}
              >
                <span className="figure">{s.code}</span>
                <span>
                  {test?.label}
                  <span className="visually-hidden">, {s.orientation}</span>
                  {s.spare && " · spare"}
                  {s.treated && " · treated"}
                  {s.tested && " · tested"}
                </span>
                {s.outcome !== "good" && (
                  <span>
                    {state?.mark} {s.fault || s.outcome}
                  </span>
                )}
              </button>
            </li>
          );
        })}
      </ol>
      </div>
      <Photos subject={{ kind: "batch", id: batch.id }} photos={batch.photos} />
      <Refusal text={problem} />
    </div>
  );
}

/** When it came off the plate, and when it was begun where that is known. */
function whenPrinted({ printed_at, minutes }: Batch): string {
  const off = new Date(printed_at);
  return minutes === null ? atMinute(printed_at) : fromToMinute(new Date(off.getTime() - minutes * 60_000), off);
}

/** What is written on each place of the plate, and how it came off. */
function marksOf(batch: Batch, study: Schemas["StudyView"]): ReadonlyMap<number, PlaceMark> {
  return new Map(
    batch.specimens.map((s) => {
      const test = study.tests.find((t) => t.id === s.test_id);
      const label = [s.code, test && `${test.label}, ${s.orientation}`, s.spare && "spare", s.tested ? "tested" : s.outcome, s.fault].filter(Boolean).join(", ");
      return [s.position, { words: s.code, label, state: s.tested ? "tested" : s.outcome === "good" ? "good" : "lost" }] as const;
    }),
  );
}

function useJudging(batch: Batch) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const judge = async (ids: readonly string[], outcome: Outcome, fault: string) => {
    try {
      unwrap(await client.PATCH("/api/batches/{batch_id}", { params: { path: { batch_id: batch.id } }, body: { specimens: ids.map((specimen_id) => ({ specimen_id, outcome, fault: outcome === "good" ? "" : fault.trim() })) } }));
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
    refresh(queries, ...AFTER_PRINTING);
  };
  return { judge, problem };
}
