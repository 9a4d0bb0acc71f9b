import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";

import { statementsOptions } from "../api/queries/studies";

interface StatementsProps {
  /** What is being typed. */
  text: string;
  /** Whose results come first. */
  studyId?: string | undefined;
}

/** Below a field: the statements in it that the results contradict or leave open, with what was measured. */
export function Statements({ text, studyId }: StatementsProps) {
  const [settled] = useDebouncedValue(text, 400);
  const checked = useQuery({ ...statementsOptions(settled, studyId), enabled: settled.trim().length > 8 });
  const shown = settled.trim().length > 8 ? (checked.data?.statements ?? []).filter((s) => s.verdict === "disagrees" || s.verdict === "undecided") : [];
  return (
    <ul aria-live="polite" aria-label="Held against the results" style={{ listStyle: "none", margin: 0, padding: 0, fontSize: "0.88rem" }}>
      {shown.map((s) => (
        <li key={s.start} style={{ padding: "0.25rem 0", color: s.verdict === "disagrees" ? "var(--worse)" : "var(--soft)" }}>
          <strong>{s.verdict === "disagrees" ? "The results say otherwise" : "Undecided"}</strong>
          {`: “${s.text}”`}
          {s.actual && ` ${s.verdict === "disagrees" ? "Measured: " : ""}${s.actual}.`}
        </li>
      ))}
    </ul>
  );
}
