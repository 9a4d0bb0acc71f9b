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
import { OutcomeChoice, OUTCOMES, placeOf, type Touched } from "./OutcomeChoice";
import css from "./printing.module.css";
import { AFTER_PRINTING } from "./surroundings";

type Batch = Schemas["BatchView"];

/** What was printed, the newest first: every specimen with its code; a touch asks how it came off the plate. */
export function Printed({ study, batches, plates, fresh }: { study: Schemas["StudyView"]; batches: readonly Batch[]; plates: Schemas["PlateList"]; fresh: readonly string[] }) {
  if (!batches.length) return null;
  return (
    <section className={css.done} aria-label="Printed">
      <h2>Printed</h2>
      <p className="soft">Touch a specimen to record how it came out; anything not good is printed again.</p>
      {batches.map((batch) => (
        <BatchOf key={batch.id} batch={batch} layout={layoutOf(plates, batch)} study={study} fresh={fresh.includes(batch.id)} />
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
}

function BatchOf({ batch, layout, study, fresh }: BatchProps) {
  const { judge, said, problem } = useJudging(batch);
  const [touched, setTouched] = useState<Touched | null>(null);
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
    batch.room !== null && `room ${amount(batch.room, "°C", 1)}`,
  ].filter(Boolean);
  const touch = (s: Batch["specimens"][number] | undefined, element: Element) => {
    if (s && !s.tested) setTouched({ ids: [s.id], words: s.code, outcome: s.outcome, fault: s.fault, box: placeOf(element) });
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
        {untested.length > 1 && (
          <Button size="xs" variant="default" onClick={(e) => setTouched({ ids: untested.map((s) => s.id), words: `all ${String(untested.length)} that are not tested`, outcome: null, fault: "", box: placeOf(e.currentTarget) })}>
            Record all {untested.length} …
          </Button>
        )}
        <Treatment batch={batch} />
        <Refile batch={batch} study={study} />
      </div>
      <div className={css.body}>
      {layout && <PlateDrawing close layout={layout} width={560} label={`Plate of ${arm?.mark ?? ""}, as it was printed`} marks={marksOf(batch, study)} onTouch={(position, element) => touch(batch.specimens.find((s) => s.position === position), element)} />}
      <Codes batch={batch} study={study} onTouch={touch} />
      </div>
      {touched && (
        <OutcomeChoice
          touched={touched}
          onLeave={() => setTouched(null)}
          onSay={(outcome, fault) => {
            setTouched(null);
            void judge(batch.specimens.filter((s) => touched.ids.includes(s.id)).map((s) => ({ ...s, outcome, fault })), touched.words);
          }}
        />
      )}
      {said && <Undo said={said} onUndo={() => void judge(said.before, said.words)} />}
      <Photos subject={{ kind: "batch", id: batch.id }} photos={batch.photos} />
      <Refusal text={problem} />
    </div>
  );
}

/** The specimens of a batch by their codes. */
function Codes({ batch, study, onTouch }: { batch: Batch; study: Schemas["StudyView"]; onTouch: (s: Batch["specimens"][number], element: Element) => void }) {
  return (
    <ol className={css.codes}>
      {batch.specimens.map((s) => {
        const test = study.tests.find((t) => t.id === s.test_id);
        const state = OUTCOMES.find((o) => o.name === s.outcome);
        return (
          <li key={s.id}>
            <button
              type="button"
              className={css.piece}
              data-outcome={s.outcome}
              disabled={s.tested}
              title={s.tested ? "tested: leave its run out at the bench instead" : "say how it came off the plate"}
              aria-haspopup="dialog"
              onClick={(e) => onTouch(s, e.currentTarget)}
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
  );
}

/** What was said last, and the way back. */
function Undo({ said, onUndo }: { said: Said; onUndo: () => void }) {
  return (
    <p role="status" className={css.said}>
      {said.words}: {said.outcome}.{" "}
      <Button size="xs" variant="default" onClick={onUndo}>
        Undo
      </Button>
    </p>
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

interface Said {
  words: string;
  outcome: string;
  before: readonly SpecimenOutcome[];
}

type SpecimenOutcome = Pick<Batch["specimens"][number], "id" | "outcome" | "fault">;

/** How specimens came off the plate, said to the server; what was said last can be undone. */
function useJudging(batch: Batch) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const [said, setSaid] = useState<Said | null>(null);
  const judge = async (specimens: readonly SpecimenOutcome[], words: string) => {
    const before = batch.specimens.filter((s) => specimens.some((j) => j.id === s.id));
    try {
      unwrap(await client.PATCH("/api/batches/{batch_id}", { params: { path: { batch_id: batch.id } }, body: { specimens: specimens.map((s) => ({ specimen_id: s.id, outcome: s.outcome, fault: s.outcome === "good" ? "" : s.fault.trim() })) } }));
      setProblem(null);
      setSaid({ words, outcome: [...new Set(specimens.map((s) => s.outcome))].join(", "), before });
    } catch (error) {
      setProblem(messageOf(error));
    }
    refresh(queries, ...AFTER_PRINTING);
  };
  return { judge, said, problem };
}
