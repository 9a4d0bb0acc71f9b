import type { Schemas } from "../../api/client";
import { atMinute, span } from "../../ui/format";
import { MARKS, place } from "./ages";
import css from "./safekeeping.module.css";

const WIDTH = 760;
const LEFT = 46;
const RIGHT = 20;
const at = (ms: number) => LEFT + place(ms) * (WIDTH - LEFT - RIGHT);
const WEEK = 7 * 86_400_000;

/** How far back one could go: every backup at its age, the week within which one must lie shaded. */
export function Ages({ backups, now }: { backups: readonly Schemas["BackupItem"][]; now: number }) {
  return (
    <svg viewBox={`0 0 ${WIDTH} 92`} className={css.ages} role="img" aria-label={`${backups.length} backups by their age`}>
      <rect x={LEFT} y="8" width={at(WEEK) - LEFT} height="50" rx="4" fill="var(--raised)" />
      <text x={LEFT + 8} y="24" fontSize="12" fill="var(--soft)">
        one must lie here
      </text>
      <line x1={LEFT} x2={WIDTH - RIGHT} y1="58" y2="58" stroke="var(--line)" strokeWidth="2" />
      <text x={LEFT} y="78" fontSize="12" textAnchor="middle" fill="var(--soft)">
        now
      </text>
      {MARKS.map((m) => (
        <g key={m.label}>
          <line x1={at(m.age)} x2={at(m.age)} y1="54" y2="62" stroke="var(--soft)" />
          <text x={at(m.age)} y="78" fontSize="12" textAnchor="middle" fill="var(--soft)">
            {m.label}
          </text>
        </g>
      ))}
      {backups.map((b) => {
        const ms = now - new Date(b.made_at).getTime();
        return (
          <rect key={b.name} x={at(ms) - 5} y="34" width="10" height="20" rx="2" fill={b.nightly ? "var(--surface)" : "var(--accent)"} stroke="var(--accent)" strokeWidth="2">
            <title>{`${atMinute(b.made_at)}, ${span(Math.max(0, ms) / 1000)} ago${b.nightly ? ", nightly" : ""}`}</title>
          </rect>
        );
      })}
    </svg>
  );
}
