import { figure, tickLabel, ticks } from "../ui/format";
import { Swatch } from "../ui/Swatch";
import { domainWith, type Scale, scale } from "./scale";

export interface LevelLine {
  name: string;
  swatch: { hex: string; mark: string; filled: boolean } | null;
  /** By level, in the order of the axis; null where that was not measured. */
  cells: readonly ({ mean: number; ci95: readonly [number, number] | null } | null)[];
}

interface LevelLinesProps {
  lines: readonly LevelLine[];
  levels: readonly string[];
  /** What the levels are of. */
  factor: string;
  /** Quantity and unit, for the axis. */
  label: string;
}

export const WIDTH = 860;
export const HEIGHT = 330;
export const BOX = { left: 74, right: 250, top: 16, bottom: 54 };
/** Labels closer than this would overlap. */
const LINE = 19;

/** Means over the levels of one factor, a line for each level of the other: lines that cross or diverge act together. */
export function LevelLines({ lines, levels, factor, label }: LevelLinesProps) {
  const cells = lines.flatMap((l) => l.cells.flatMap((c) => (c ? [c] : [])));
  const domain = domainWith(cells.map((c) => c.mean), cells.flatMap((c) => (c.ci95 ? [c.ci95] : [])));
  const y = scale(domain, HEIGHT - BOX.bottom, BOX.top);
  const inner = scale([0, Math.max(1, levels.length - 1)], BOX.left + 60, WIDTH - BOX.right - 60);
  const x = (level: number, line: number) => inner(level) + (line - (lines.length - 1) / 2) * 9;
  const places = lines.map((l, i) => ({ i, last: l.cells.findLastIndex((c) => c !== null) })).map(({ i, last }) => ({ i, last, at: y(lines[i]?.cells[last]?.mean ?? domain[0]) }));
  const ends = apart(places);
  const words = lines.map((l) => `${l.name}: ${l.cells.flatMap((c, i) => (c ? [`${levels[i] ?? ""} ${figure(c.mean, c.ci95)}`] : [])).join(", ")}`).join("; ");
  return (
    <svg viewBox={`0 0 ${String(WIDTH)} ${String(HEIGHT)}`} width="100%" style={{ maxWidth: WIDTH, display: "block" }} role="img" aria-label={`${label} over ${factor}. ${words}`}>
      <Values y={y} label={label} />
      {levels.map((level, i) => (
        <text key={level} x={inner(i)} y={HEIGHT - BOX.bottom + 22} textAnchor="middle" fontSize="13" fill="var(--ink)">
          {level.length > 30 ? `${level.slice(0, 29)}…` : level}
          <title>{level}</title>
        </text>
      ))}
      <text x={(BOX.left + WIDTH - BOX.right) / 2} y={HEIGHT - 10} textAnchor="middle" fontSize="13" fill="var(--soft)">
        {factor}
      </text>
      {lines.map((l, i) => {
        const points = l.cells.flatMap((c, j) => (c ? [{ x: x(j, i), y: y(c.mean), ci95: c.ci95, level: j }] : []));
        const end = ends.find((e) => e.i === i)?.at ?? 0;
        const last = points.at(-1);
        return (
          <g key={l.name}>
            <polyline points={points.map((p) => `${String(p.x)},${String(p.y)}`).join(" ")} fill="none" stroke="var(--soft)" strokeWidth="1.6" />
            {points.map((p) => (
              <g key={p.level}>
                {p.ci95 && <line x1={p.x} x2={p.x} y1={y(clamp(p.ci95[0], domain))} y2={y(clamp(p.ci95[1], domain))} stroke="var(--ink)" strokeWidth="2" strokeLinecap="round" />}
                <circle cx={p.x} cy={p.y} r="6.5" fill={l.swatch?.hex ?? "var(--surface)"} stroke="var(--ink)" strokeWidth="1.3" />
              </g>
            ))}
            {last && <line x1={last.x + 8} y1={last.y} x2={WIDTH - BOX.right + 10} y2={end} stroke="var(--line)" />}
            {l.swatch && <Swatch {...l.swatch} size={18} x={WIDTH - BOX.right + 14} y={end - 9} />}
            <text x={WIDTH - BOX.right + 38} y={end + 4.5} fontSize="13.5" fill="var(--ink)">
              {l.name.length > 28 ? `${l.name.slice(0, 27)}…` : l.name}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

const clamp = (value: number, [low, high]: readonly [number, number]) => Math.min(high, Math.max(low, value));

/** The axis of values at the left, with lines across. */
export function Values({ y, label, to = WIDTH - BOX.right }: { y: Scale; label: string; to?: number }) {
  const marks = ticks(y.domain[0], y.domain[1], 5);
  return (
    <>
      {marks.map((t) => (
        <g key={t}>
          <line x1={BOX.left} x2={to} y1={y(t)} y2={y(t)} stroke="var(--line)" />
          <text x={BOX.left - 8} y={y(t) + 4} textAnchor="end" fontSize="13" fontFamily="var(--mono)" fill="var(--soft)">
            {tickLabel(t, marks)}
          </text>
        </g>
      ))}
      <text transform={`translate(16 ${String((HEIGHT - BOX.bottom + BOX.top) / 2)}) rotate(-90)`} textAnchor="middle" fontSize="13" fill="var(--soft)">
        {label}
      </text>
    </>
  );
}

/** Labels moved apart so that none covers another, in their order. */
function apart<T extends { at: number }>(places: readonly T[]): T[] {
  const sorted = [...places].sort((a, b) => a.at - b.at).map((p) => ({ ...p }));
  sorted.forEach((own, k) => {
    const before = sorted[k - 1];
    if (before) own.at = Math.max(own.at, before.at + LINE);
  });
  return sorted;
}
