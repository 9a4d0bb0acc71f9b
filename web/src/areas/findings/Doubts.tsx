import { UnstyledButton } from "@mantine/core";
import { Link } from "@tanstack/react-router";

import type { Schemas } from "../../api/client";
import { VerdictNote } from "../studies/Margins";
import { doubtsOf } from "./doubts";
import css from "./findings.module.css";

interface DoubtsProps {
  findings: Schemas["Findings"];
  onOpen: (specimenId: string | null, runId: string) => void;
}

/** What is in doubt, next to the figure that it affects, each with what can be done about it. */
export function Doubts({ findings, onOpen }: DoubtsProps) {
  const doubts = doubtsOf(findings);
  const all = findings.arms.length;
  return (
    <section className={css.doubts} aria-label="In doubt">
      <h2>
        In doubt{" "}
        <span className="soft" style={{ fontWeight: 400, fontSize: "0.9rem" }}>
          {doubts.length ? `${String(doubts.length)} open` : "nothing"}
        </span>
      </h2>
      <ul>
        {doubts.map((d) => (
          <li key={d.text}>
            <div>{d.inPlan || d.specimen ? <strong className={css.caution}>{d.text}</strong> : <VerdictNote studyId={findings.study.id} testId={findings.test.id} note={d.text} />}</div>
            <div className="soft">
              {d.arms.length > 0 && d.arms.length < all && <span>{d.arms.join("; ")}</span>}
              {d.specimen && (
                <UnstyledButton className={css.act} onClick={() => d.specimen && onOpen(d.specimen.specimenId, d.specimen.runId)}>
                  Look at it
                </UnstyledButton>
              )}
              {d.inPlan && (
                <Link to="/studies/$studyId/plan" params={{ studyId: findings.study.id }}>
                  see the plan
                </Link>
              )}
            </div>
          </li>
        ))}
      </ul>
    </section>
  );
}
