import { figure, fixed, tickLabel, ticks } from "../ui/format";
import { Swatch } from "../ui/Swatch";
import { domainOf, scale } from "./scale";

export interface WeibullLine {
  name: string;
  swatch: { hex: string; mark: string; filled: boolean };
  /** Value and share broken up to it. */
  points: readonly (readonly [number, number])[];
  /** Of the fitted line; null where there is none. */
  shape: number | null;
  scale: number | null;
}

interface WeibullPlotProps {
  lines: readonly WeibullLine[];
  /** Quantity and unit. */
  label: string;
}

const WIDTH = 860;
const HEIGHT = 400;
const BOX = { left: 70, right: 260, top: 14, bottom: 50 };
const SHARES = [0.01, 0.02, 0.05, 0.1, 0.2, 0.3, 0.5, 0.632, 0.8, 0.9, 0.95, 0.99];
const upright = (share: number) => Math.log(-Math.log(1 - share));

/** Breaks on Weibull paper: strengths of one spread lie on a line, the steeper the more alike. */
export function WeibullPlot({ lines, label }: WeibullPlotProps) {
  const values = lines.flatMap((l) => l.points.map(([v]) => v));
  const least = Math.min(0.05, ...lines.flatMap((l) => l.points.map(([, share]) => share)));
  const y = scale([upright(least * 0.8), upright(0.99)], HEIGHT - BOX.bottom, BOX.top);
  const x = scale(domainOf(values.map(Math.log), 0.1), BOX.left, WIDTH - BOX.right);
  const [low, high] = [Math.exp(x.domain[0]), Math.exp(x.domain[1])];
  const along = ticks(low, high, 6);
  const words = lines.map((l) => `${l.name}: ${l.shape === null ? "no line" : `shape ${figure(l.shape)}, scale ${figure(l.scale ?? 0)}`}, ${String(l.points.length)} breaks`).join("; ");
  return (
    <svg viewBox={`0 0 ${String(WIDTH)} ${String(HEIGHT)}`} width="100%" style={{ maxWidth: WIDTH, display: "block" }} role="img" aria-label={`Weibull plot of ${label}. ${words}`} fontFamily="var(--sans)">
      {SHARES.filter((s) => upright(s) >= y.domain[0]).map((s) => (
        <g key={s}>
          <line x1={BOX.left} x2={WIDTH - BOX.right} y1={y(upright(s))} y2={y(upright(s))} stroke="var(--line)" />
          <text x={BOX.left - 8} y={y(upright(s)) + 4} textAnchor="end" fontSize="12.5" fontFamily="var(--mono)" fill="var(--soft)">
            {fixed(100 * s, s === 0.632 ? 1 : 0)}
          </text>
        </g>
      ))}
      {along.map((t) => (
        <text key={t} x={x(Math.log(t))} y={HEIGHT - BOX.bottom + 20} textAnchor="middle" fontSize="12.5" fontFamily="var(--mono)" fill="var(--soft)">
          {tickLabel(t, along)}
        </text>
      ))}
      <text x={(BOX.left + WIDTH - BOX.right) / 2} y={HEIGHT - 8} textAnchor="middle" fontSize="13" fill="var(--soft)">
        {label}
      </text>
      <text transform={`translate(16 ${String((HEIGHT - BOX.bottom + BOX.top) / 2)}) rotate(-90)`} textAnchor="middle" fontSize="13" fill="var(--soft)">
        broken up to it, %
      </text>
      {lines.map((l, i) => (
        <g key={l.name}>
          {l.shape !== null && l.scale !== null && <Line shape={l.shape} scaleOf={l.scale} x={x} y={y} />}
          {l.points.map(([v, share]) => (
            <circle key={`${String(v)} ${String(share)}`} cx={x(Math.log(v))} cy={y(upright(share))} r="5" fill={l.swatch.hex} stroke="var(--ink)" />
          ))}
          <Swatch {...l.swatch} size={22} x={WIDTH - BOX.right + 16} y={BOX.top + 44 * i} />
          <text x={WIDTH - BOX.right + 46} y={BOX.top + 44 * i + 9} fontSize="13.5" fill="var(--ink)">
            {l.name.length > 28 ? `${l.name.slice(0, 27)}…` : l.name}
          </text>
          <text x={WIDTH - BOX.right + 46} y={BOX.top + 44 * i + 25} fontSize="12.5" fontFamily="var(--mono)" fill="var(--soft)">
            {l.shape === null ? "no line" : `shape ${figure(l.shape)}, scale ${figure(l.scale ?? 0)}`}
          </text>
        </g>
      ))}
    </svg>
  );
}

/** ln(−ln(1 − F)) = k (ln x − ln λ), as far as it lies within the figure. */
function Line({ shape, scaleOf, x, y }: { shape: number; scaleOf: number; x: ReturnType<typeof scale>; y: ReturnType<typeof scale> }) {
  const at = (v: number) => Math.log(scaleOf) + v / shape;
  const [low, high] = [Math.max(x.domain[0], at(y.domain[0])), Math.min(x.domain[1], at(y.domain[1]))];
  if (low >= high) return null;
  const up = (log: number) => shape * (log - Math.log(scaleOf));
  return <line x1={x(low)} x2={x(high)} y1={y(up(low))} y2={y(up(high))} stroke="var(--ink)" strokeWidth="1.5" />;
}
