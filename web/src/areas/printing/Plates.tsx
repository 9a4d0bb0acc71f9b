import { Button } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { durationWords } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import { ArmSwatch, armWords } from "../../ui/Swatch";
import { OnePlate } from "./OnePlate";
import { takes } from "./plates";
import css from "./printing.module.css";
import { AFTER_PRINTING, type Surroundings } from "./surroundings";

type Study = Schemas["StudyView"];
type Plate = Schemas["PlateView"];

interface PlatesProps {
  study: Study;
  list: Schemas["PlateList"];
  job: Surroundings;
  onPrinted: (batch: Schemas["BatchView"]) => void;
}

/** What lies on plates: the one that is next, and the rounds in which all are printed. */
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
        <span className="soft">{takes(waiting)}</span>
        <a href={`/api/studies/${study.id}/plates.zip`} download>
          All files with a list (zip)
        </a>
        <Button variant="subtle" size="compact-sm" onClick={() => void back.act()}>
          Take them back
        </Button>
      </div>
      <Refusal text={back.problem} />
      <Rounds study={study} plates={list.plates} chosen={shown.id} onChoose={setPicked} />
    </section>
  );
}

/** Plates ahead that are drawn in a round: who has more of them looks at the list. */
const SHOWN = 24;

interface RoundsProps {
  study: Study;
  plates: readonly Plate[];
  chosen: string;
  onChoose: (plateId: string) => void;
}

/** The rounds, one after another: in each every arm once, in random order; as long as they take. */
function Rounds({ study, plates, chosen, onChoose }: RoundsProps) {
  const parts = [...new Set(plates.map((p) => p.part))].sort((a, b) => a - b);
  return (
    <div className={css.rounds} role="group" aria-label="Plates in the order of printing">
      {parts.map((part) => {
        const own = plates.filter((p) => p.part === part);
        const done = own.filter((p) => p.batch_id !== null);
        const waiting = own.filter((p) => p.batch_id === null);
        const after = waiting.slice(SHOWN);
        return (
          <div key={part}>
            <span className="soft">batch {part} of each</span>
            <ol>
              {done.length > 0 && <Stretch plates={done}>{done.length} printed</Stretch>}
              {waiting.slice(0, SHOWN).map((p) => (
                <Waiting key={p.id} plate={p} arm={study.arms.find((a) => a.id === p.arm_id)} chosen={p.id === chosen} onChoose={() => onChoose(p.id)} />
              ))}
              {after.length > 0 && <Stretch plates={after}>{after.length} more</Stretch>}
            </ol>
          </div>
        );
      })}
    </div>
  );
}

/** Several plates as one stretch, no longer than its words and a few plates. */
function Stretch({ plates, children }: { plates: readonly Plate[]; children: React.ReactNode }) {
  return (
    <li style={{ flexGrow: Math.min(plates.length, 4) * (plates[0]?.minutes ?? 1) }} data-still>
      {children}
    </li>
  );
}

function Waiting({ plate, arm, chosen, onChoose }: { plate: Plate; arm: Study["arms"][number] | undefined; chosen: boolean; onChoose: () => void }) {
  const words = [arm && armWords(arm), `batch ${String(plate.part)}`].filter(Boolean).join(", ");
  return (
    <li style={{ flexGrow: plate.minutes }}>
      <button type="button" data-plate={plate.number} aria-pressed={chosen} onClick={onChoose} title={[arm?.material.product, words].filter(Boolean).join(", ")}>
        {arm && <ArmSwatch arm={arm} size={20} />}{" "}
        <span className="figure">
          <span className="visually-hidden">plate</span> {plate.number}
        </span>{" "}
        <span className="soft">
          {durationWords(plate.minutes)}
          <span className="visually-hidden">, {words}</span>
        </span>
      </button>
    </li>
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
