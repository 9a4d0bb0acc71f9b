import { scale } from "./scale";

interface CourseStripProps {
  /** s after the event, value; rising in time. */
  points: readonly (readonly [number, number])[];
  /** The one just typed. */
  now: readonly [number, number] | null;
  /** How the times of the schedule are said. */
  labels: readonly (readonly [number, string])[];
}

const [WIDE, HIGH] = [350, 110];

/** The course so far over the logarithm of time, with the new reading at its end. */
export function CourseStrip({ points, now, labels }: CourseStripProps) {
  const all = now ? [...points, now] : [...points];
  const times = [...all.map((p) => p[0]), ...labels.map((l) => l[0])].filter((t) => t > 0);
  if (!times.length) return null;
  const x = scale([Math.log10(Math.min(...times)), Math.log10(Math.max(...times) * 1.01)], 14, WIDE - 20);
  const values = all.map((p) => p[1]);
  const y = scale([Math.min(...values), Math.max(...values) + 1e-9], HIGH - 34, 12);
  const at = (p: readonly [number, number]) => `${x(Math.log10(Math.max(p[0], 1))).toFixed(1)} ${y(p[1]).toFixed(1)}`;
  return (
    <svg viewBox={`0 0 ${WIDE} ${HIGH}`} style={{ width: "100%", maxWidth: WIDE, display: "block" }} aria-hidden="true">
      <line x1="6" x2={WIDE - 6} y1={HIGH - 22} y2={HIGH - 22} stroke="var(--line)" />
      <path d={all.map((p, i) => `${i ? "L" : "M"}${at(p)}`).join("")} fill="none" stroke="var(--ink)" strokeWidth="1.6" />
      {points.map((p) => (
        <circle key={p[0]} cx={x(Math.log10(Math.max(p[0], 1)))} cy={y(p[1])} r="4" fill="var(--ink)" />
      ))}
      {now && <circle cx={x(Math.log10(Math.max(now[0], 1)))} cy={y(now[1])} r="6" fill="var(--accent)" />}
      {labels.map(([t, words]) => (
        <text key={t} x={x(Math.log10(t))} y={HIGH - 7} textAnchor="middle" fontSize="11.5" fill="var(--soft)">
          {words}
        </text>
      ))}
    </svg>
  );
}
