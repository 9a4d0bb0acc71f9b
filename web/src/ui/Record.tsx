import type { Schemas } from "../api/client";
import { atMinute } from "./format";

interface RecordProps {
  entries: Schemas["RecordEntry"][];
  /** Actions whose values say nothing new, such as the first entry. */
  plain?: readonly string[];
  className?: string | undefined;
}

/** The record of an object: who changed what, when, from which value to which. */
export function Record({ entries, plain = [], className }: RecordProps) {
  return (
    <ul className={className}>
      {entries.map((entry, i) => (
        <li key={i}>
          <span className="soft">
            {atMinute(entry.at)}, {entry.who}:
          </span>{" "}
          {entry.entity} {entry.action} {!plain.includes(entry.action) && <span className="soft">{told(entry)}</span>}
        </li>
      ))}
    </ul>
  );
}

export function told(entry: Pick<Schemas["RecordEntry"], "changes">): string {
  return entry.changes.map((c) => `${c.name.replaceAll("_", " ")} ${read(c.before)} → ${read(c.after)}`).join(", ");
}

const MOMENT = /^\d{4}-\d\d-\d\dT\d\d:\d\d/;

/** A value of the log as it is read: moments in the reader's own time. */
function read(value: string | null): string {
  return value === null ? "–" : MOMENT.test(value) ? atMinute(value) : value;
}
