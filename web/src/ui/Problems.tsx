import type { Schemas } from "../api/client";
import type { VerdictWord } from "./Verdict";
import { VerdictMark } from "./Verdict";

/** What prevents an answer, above the verdicts that it affects. */
export function Problems({ problems }: { problems: readonly string[] }) {
  if (!problems.length) return null;
  return (
    <div role="note" aria-label="What prevents an answer" style={{ color: "var(--caution)", marginBottom: "0.7rem" }}>
      {problems.map((text) => (
        <p key={text} style={{ margin: "0.2rem 0" }}>
          <strong aria-hidden="true">! </strong>
          {text}
        </p>
      ))}
    </div>
  );
}

/** Of the problems of a study, those that affect the verdict on one of its arms. */
export const problemsOf = (problems: readonly Schemas["ProblemView"][], armId: string): string[] => problems.filter((p) => p.arm_ids.includes(armId)).map((p) => p.text);

/** A verdict; where something prevents an answer, it says so beside it. */
export function VerdictWithProblems({ verdict, problems }: { verdict: VerdictWord; problems: readonly string[] }) {
  const doubtful = problems.length > 0 && verdict !== "reference" && verdict !== "no verdict";
  return (
    <>
      <VerdictMark verdict={verdict} />
      {doubtful && (
        <span style={{ color: "var(--caution)", marginLeft: 6, whiteSpace: "nowrap" }} title={problems.join("; ")}>
          <strong aria-hidden="true">! </strong>see problem
        </span>
      )}
    </>
  );
}
