import type { Schemas } from "../../api/client";
import { stateWords } from "../../ui/doubts";
import { Waiting } from "../../ui/Notes";
import { VerdictNote } from "../studies/Margins";
import { DoubtList } from "./DoubtList";
import { remarksOf } from "./doubts";
import css from "./findings.module.css";

interface DoubtsProps {
  findings: Schemas["Findings"];
  /** None while they are worked out. */
  doubts: readonly Schemas["DoubtView"][] | undefined;
  onOpen: (specimenId: string | null, runId: string) => void;
}

/** What is in doubt, next to the figure that it affects, each with what can be done about it. */
export function Doubts({ findings, doubts, onOpen }: DoubtsProps) {
  const all = findings.arms.length;
  return (
    <div className={css.doubts}>
      <section aria-label="In doubt">
        <h2>
          In doubt <span className={css.count}>{doubts && stateWords(doubts)}</span>
        </h2>
        {doubts ? <DoubtList studyId={findings.study.id} doubts={doubts} arms={all} onOpen={onOpen} /> : <Waiting what="Looking for doubts …" />}
      </section>
    </div>
  );
}

/** What the verdicts rest on, side by side across the page. */
export function BehindVerdicts({ findings }: { findings: Schemas["Findings"] }) {
  const remarks = remarksOf(findings);
  if (!remarks.length) return null;
  return (
    <section aria-label="Behind the verdicts">
      <h2>Behind the verdicts</h2>
      <ul className={`${css.doubtList ?? ""} ${css.remarks ?? ""}`}>
        {remarks.map((r) => (
          <li key={r.text}>
            <VerdictNote studyId={findings.study.id} testId={findings.test.id} note={r.text} />
            {r.arms.length < findings.arms.length && <div className="soft">{r.arms.join("; ")}</div>}
          </li>
        ))}
      </ul>
    </section>
  );
}
