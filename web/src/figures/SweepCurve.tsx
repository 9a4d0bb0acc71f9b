import { figure, tickLabel, ticks } from "../ui/format";
import { BOX, HEIGHT, Values, WIDTH } from "./LevelLines";
import { domainOf, scale } from "./scale";

interface SweepCurveProps {
  /** Setting and value of each specimen. */
  points: readonly (readonly [number, number])[];
  levels: readonly { x: number; mean: number; in_window: boolean }[];
  curve: readonly (readonly [number, number])[];
  best: number;
  optimum: number | null;
  optimumInterval: readonly [number, number] | null;
  /** What the maker asks for of the setting; null ends are open. */
  maker: readonly [number | null, number | null] | null;
  setting: string;
  label: string;
}

const RIGHT = 24;

/** A response against one setting: specimens, level means, the chosen curve, the window of levels as good as the best, the maker's below. */
export function SweepCurve({ points, levels, curve, best, optimum, optimumInterval, maker, setting, label }: SweepCurveProps) {
  const xs = points.map(([x]) => x);
  const span = domainOf(xs, 0.08);
  const x = scale(span, BOX.left, WIDTH - RIGHT);
  const y = scale(domainOf([...points.map(([, v]) => v), ...curve.map(([, v]) => v)]), HEIGHT - BOX.bottom - 26, BOX.top);
  const inside = levels.filter((l) => l.in_window).map((l) => l.x);
  const band = inside.length ? ([Math.min(...inside), Math.max(...inside)] as const) : null;
  const strip = HEIGHT - BOX.bottom - 14;
  const marks = ticks(span[0], span[1], 8);
  const within = (value: number) => Math.min(x(span[1]), Math.max(x(span[0]), x(value)));
  const words = [
    `best level ${String(best)}`,
    band ? `window ${String(band[0])} to ${String(band[1])}` : "",
    optimum === null ? "" : `the curve turns at ${figure(optimum, optimumInterval)}`,
  ];
  return (
    <svg viewBox={`0 0 ${String(WIDTH)} ${String(HEIGHT)}`} width="100%" style={{ maxWidth: WIDTH, display: "block" }} role="img" aria-label={`${label} over ${setting}: ${words.filter(Boolean).join(", ")}`}>
      <Values y={y} label={label} to={WIDTH - RIGHT} />
      {band && <rect x={x(band[0]) - 9} width={x(band[1]) - x(band[0]) + 18} y={BOX.top} height={strip - BOX.top - 6} fill="var(--raised)" />}
      {curve.length > 0 && <polyline points={curve.map(([a, b]) => `${String(x(a))},${String(y(b))}`).join(" ")} fill="none" stroke="var(--accent)" strokeWidth="2.2" />}
      {points.map(([a, b], i) => (
        <circle key={i} cx={x(a)} cy={y(b)} r="3.6" fill="var(--soft)" fillOpacity="0.55" stroke="var(--soft)" />
      ))}
      {levels.map((l) => (
        <line key={l.x} x1={x(l.x) - 11} x2={x(l.x) + 11} y1={y(l.mean)} y2={y(l.mean)} stroke="var(--ink)" strokeWidth={l.x === best ? 4 : 2.2} />
      ))}
      {optimum !== null && (
        <g>
          {optimumInterval && <line x1={within(optimumInterval[0])} x2={within(optimumInterval[1])} y1={BOX.top + 4} y2={BOX.top + 4} stroke="var(--accent)" strokeWidth="3" strokeLinecap="round" />}
          <circle cx={within(optimum)} cy={BOX.top + 4} r="5" fill="var(--accent)" />
        </g>
      )}
      {maker && (
        <g>
          <rect x={within(maker[0] ?? span[0])} width={Math.max(2, within(maker[1] ?? span[1]) - within(maker[0] ?? span[0]))} y={strip - 5} height="10" fill="none" stroke="var(--ink)" strokeWidth="1.4" />
          <text x={within(maker[0] ?? span[0]) + 5} y={strip - 9} fontSize="13" fill="var(--soft)">
            the maker’s window
          </text>
        </g>
      )}
      {marks.map((t) => (
        <g key={t}>
          <line x1={x(t)} x2={x(t)} y1={HEIGHT - BOX.bottom + 2} y2={HEIGHT - BOX.bottom + 8} stroke="var(--soft)" />
          <text x={x(t)} y={HEIGHT - BOX.bottom + 23} textAnchor="middle" fontSize="13" fontFamily="var(--mono)" fill="var(--soft)">
            {tickLabel(t, marks)}
          </text>
        </g>
      ))}
      <line x1={BOX.left} x2={WIDTH - RIGHT} y1={HEIGHT - BOX.bottom + 2} y2={HEIGHT - BOX.bottom + 2} stroke="var(--soft)" />
      <text x={(BOX.left + WIDTH - RIGHT) / 2} y={HEIGHT - 8} textAnchor="middle" fontSize="13" fill="var(--soft)">
        {setting}
      </text>
    </svg>
  );
}
