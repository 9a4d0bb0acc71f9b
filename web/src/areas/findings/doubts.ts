import type { Schemas } from "../../api/client";
import { capital } from "../../ui/format";

type Findings = Schemas["Findings"];

/** Something to know of the verdicts, with the arms it is about. */
export interface Remark {
  text: string;
  arms: string[];
}

/** What the verdicts of a test rest on: each remark once. */
export function remarksOf(findings: Findings): Remark[] {
  const notes = new Map<string, string[]>();
  for (const a of findings.arms) for (const note of [...(a.verdict?.notes ?? []), ...a.notes]) if (!SIZES.has(note)) notes.set(note, [...(notes.get(note) ?? []), a.name]);
  return [...notes].map(([note, arms]) => ({ text: capital(note), arms }));
}

/** How large a difference certainly is belongs to the figure. */
const SIZES = new Set(["certainly above the difference that matters", "real, possibly below the difference that matters", "real, but smaller than matters"]);
