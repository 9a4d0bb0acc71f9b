import type { Schemas } from "../../api/client";
import { capital, fixed } from "../../ui/format";

type Findings = Schemas["Findings"];

/** Something that someone should decide on, with the arms it is about. */
export interface Doubt {
  text: string;
  arms: string[];
  /** A specimen to look at. */
  specimen?: { specimenId: string | null; runId: string };
  /** Whether the plan is where it is settled. */
  inPlan?: boolean;
}

/** What is in doubt about a test: what prevents an answer, what stands out, and what the verdicts rest on. */
export function doubtsOf(findings: Findings): Doubt[] {
  const names = new Map(findings.arms.map((a) => [a.arm.id, a.name]));
  const found: Doubt[] = findings.problems.map((p) => ({ text: capital(p.text), arms: p.arm_ids.flatMap((id) => names.get(id) ?? []), inPlan: true }));
  for (const a of findings.arms) {
    const dot = a.outlier && a.dots.find((d) => d.run_id === a.outlier?.run_id);
    if (a.outlier && dot) found.push({ text: `${a.outlier.code} is an outlier (G ${fixed(a.outlier.g, 2)} > ${fixed(a.outlier.critical, 2)}); it still counts`, arms: [a.name], specimen: { specimenId: dot.specimen_id, runId: dot.run_id } });
  }
  const notes = new Map<string, string[]>();
  for (const a of findings.arms) for (const note of [...(a.verdict?.notes ?? []), ...a.notes]) if (!SIZES.has(note)) notes.set(note, [...(notes.get(note) ?? []), a.name]);
  for (const [note, arms] of notes) found.push({ text: capital(note), arms });
  return found;
}

/** How large a difference certainly is belongs to the figure, not to the doubts. */
const SIZES = new Set(["certainly above the difference that matters", "real, possibly below the difference that matters", "real, but smaller than matters"]);
