import type { Schemas } from "../../api/client";
import { domainOf, scale } from "../../figures/scale";
import { count, tickLabel, ticks } from "../../ui/format";
import { useNow } from "../../ui/useNow";
import { seenAt, type Sitting, temperatureOf } from "./oven";
import css from "./oven.module.css";

const [W, H, LEFT, RIGHT, TOP, BASE] = [1180, 250, 62, 1150, 24, 206];

/** Temperature over time, and on it what was seen of each specimen, by its letter. */
export function OvenStrip({ sitting, fields, unit }: { sitting: Sitting; fields: readonly Schemas["FieldView"][]; unit: string }) {
  const now = useNow();
  const { log } = sitting;
  const read = log ? log.points.map(([t, shown]) => ({ at: log.begins + t * 1000, shown })) : sitting.track.map((r) => ({ at: r.at, shown: temperatureOf(r.raw) })).filter((r) => Number.isFinite(r.shown));
  const begun = read[0]?.at ?? now;
  const minutes = (at: number) => (at - begun) / 60_000;
  const span = Math.max(10, minutes(log ? (read.at(-1)?.at ?? now) : now) * 1.08);
  const temperatures = read.map((r) => r.shown);
  const [low, high] = domainOf(temperatures.length ? [...temperatures, (temperatures[0] ?? 20) + 20] : [20, 100]);
  const x = scale([0, span], LEFT, RIGHT);
  const y = scale([low, high], BASE, TOP);
  const across = ticks(0, span, 8);
  const up = ticks(low, high, 4);
  const points = read.map((r) => [x(minutes(r.at)), y(r.shown)] as const);
  // what was seen before any temperature was known has its place once there is one
  const placed = sitting.seen.map((s) => ({ ...s, raw: seenAt(sitting, s) })).filter((s) => s.raw);
  let last = -Infinity;
  const marks = [...placed].sort((a, b) => a.at - b.at).map((s) => {
    const letter = sitting.members.find((m) => m.specimen_id === s.specimen_id)?.letter ?? "";
    // what was seen close together stands beside one another
    last = Math.max(x(minutes(s.at)), last + 17);
    const height = y(temperatureOf(s.raw));
    // below the line, or above it where the axis begins at once
    const side = height + 40 > BASE ? -1 : 1;
    return { s, letter: letter.toUpperCase(), at: last, height, side, top: side > 0 ? height + 19 : height - 39, first: s.field === fields[0]?.name };
  });
  return (
    <svg viewBox={`0 0 ${String(W)} ${String(H)}`} className={css.strip} role="img" aria-label={`Temperature over time, ${count(read.length, "reading")}, ${String(sitting.seen.length)} seen`}>
      <path d={`M${String(LEFT)} ${String(TOP - 8)}V${String(BASE)}H${String(RIGHT)}`} fill="none" stroke="var(--ink)" strokeWidth="1.6" />
      {across.map((t) => (
        <text key={t} x={x(t)} y={BASE + 20} textAnchor="middle" fontSize="15" fill="var(--soft)">
          {tickLabel(t, across)}
        </text>
      ))}
      {up.map((t) => (
        <g key={t}>
          <path d={`M${String(LEFT)} ${String(y(t))}H${String(RIGHT)}`} stroke="var(--line)" strokeWidth="1" />
          <text x={LEFT - 8} y={y(t) + 5} textAnchor="end" fontSize="15" fill="var(--soft)">
            {tickLabel(t, up)}
          </text>
        </g>
      ))}
      <text x={(LEFT + RIGHT) / 2} y={H - 6} textAnchor="middle" fontSize="15" fill="var(--soft)">
        minutes since the first reading
      </text>
      <text x={LEFT + 8} y={TOP + 2} fontSize="15" fill="var(--soft)">
        temperature, {log ? "°C" : unit}
      </text>
      <polyline points={points.map((p) => p.join(",")).join(" ")} fill="none" stroke="var(--accent)" strokeWidth="2.5" />
      {!log && points.map(([px, py]) => (
        <circle key={`${String(px)}-${String(py)}`} cx={px} cy={py} r="4.5" fill="var(--accent)" />
      ))}
      {marks.map((m) => (
        <g key={m.s.id}>
          <path d={`M${String(m.at)} ${String(m.height + 3 * m.side)}v${String(16 * m.side)}`} stroke="var(--ink)" strokeWidth="2" strokeDasharray={m.first ? undefined : "3 3"} />
          <rect x={m.at - 8} y={m.top} width="16" height="20" rx="4" fill={m.first ? "var(--surface)" : "var(--ink)"} stroke="var(--ink)" strokeWidth="1.6" />
          <text x={m.at} y={m.top + 15} textAnchor="middle" fontSize="14" fontWeight="700" fill={m.first ? "var(--ink)" : "var(--surface)"}>
            {m.letter}
          </text>
        </g>
      ))}
    </svg>
  );
}
