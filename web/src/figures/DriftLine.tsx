import { figure, fixed, tickLabel, ticks } from "../ui/format";
import { domainOf, scale } from "./scale";

export interface DriftMark {
  mean: number;
  n: number;
  day: string;
  study: string;
  /** Why it stands out; null where it does not. */
  signal: string | null;
}

interface DriftLineProps {
  points: readonly DriftMark[];
  /** Centre line and limits; null before there are enough studies. */
  centre: number | null;
  limits: readonly [number, number] | null;
  /** Quantity and unit, for the axis. */
  label: string;
  onOpen: (index: number) => void;
}

const WIDTH = 700;
const HEIGHT = 200;
const BOX = { left: 66, right: 60, top: 14, bottom: 40 };

/** A reference material from study to study, with the limits within which chance alone moves it. */
export function DriftLine({ points, centre, limits, label, onOpen }: DriftLineProps) {
  const y = scale(domainOf([...points.map((p) => p.mean), ...(limits ?? [])], 0.12), HEIGHT - BOX.bottom, BOX.top);
  const x = scale([0, Math.max(1, points.length - 1)], BOX.left + 30, WIDTH - BOX.right - 30);
  const marks = ticks(y.domain[0], y.domain[1], 4);
  const every = Math.ceil(points.length / 9);
  const lines = limits && centre !== null ? [[limits[1], "+ 3 s"], [centre, "mean"], [limits[0], "− 3 s"]] as const : [];
  const words = points.map((p) => `${p.day} ${figure(p.mean)}${p.signal ? `, ${p.signal}` : ""}`).join("; ");
  return (
    <svg viewBox={`0 0 ${String(WIDTH)} ${String(HEIGHT)}`} width="100%" style={{ maxWidth: WIDTH, display: "block" }} role="group" aria-label={`${label} from study to study: ${words}`}>
      {marks.map((t) => (
        <text key={t} x={BOX.left - 8} y={y(t) + 4} textAnchor="end" fontSize="13" fontFamily="var(--mono)" fill="var(--soft)">
          {tickLabel(t, marks)}
        </text>
      ))}
      <text transform={`translate(14 ${String((HEIGHT - BOX.bottom + BOX.top) / 2)}) rotate(-90)`} textAnchor="middle" fontSize="13" fill="var(--soft)">
        {label}
      </text>
      {lines.map(([value, name]) => (
        <g key={name}>
          <line x1={BOX.left} x2={WIDTH - BOX.right} y1={y(value)} y2={y(value)} stroke={name === "mean" ? "var(--ink)" : "var(--soft)"} strokeWidth={name === "mean" ? 1.4 : 1.2} strokeDasharray={name === "mean" ? undefined : "6 4"} />
          <text x={WIDTH - BOX.right + 6} y={y(value) + 4} fontSize="13" fill="var(--soft)">
            {name}
          </text>
        </g>
      ))}
      <polyline points={points.map((p, i) => `${fixed(x(i), 1)},${fixed(y(p.mean), 1)}`).join(" ")} fill="none" stroke="var(--soft)" strokeWidth="1.4" />
      {points.map((p, i) => (
        <g key={`${p.day} ${p.study}`} role="link" tabIndex={0} aria-label={`${p.study}, ${p.day}: ${figure(p.mean)}, n ${String(p.n)}${p.signal ? `, ${p.signal}` : ""}`} style={{ cursor: "pointer" }} onClick={() => onOpen(i)} onKeyDown={(e) => e.key === "Enter" && onOpen(i)}>
          <circle cx={x(i)} cy={y(p.mean)} r="13" fill="transparent" />
          {p.signal ? <path d={`M${String(x(i))} ${String(y(p.mean) - 9)}l9 15h-18Z`} fill="var(--caution)" /> : <circle cx={x(i)} cy={y(p.mean)} r="5.5" fill="var(--ink)" />}
          <title>{`${p.study}: ${figure(p.mean)}, n ${String(p.n)}${p.signal ? ` · ${p.signal}` : ""}`}</title>
          {i % every === 0 && (
            <text x={x(i)} y={HEIGHT - BOX.bottom + 22} textAnchor="middle" fontSize="13" fill="var(--soft)">
              {p.day}
            </text>
          )}
        </g>
      ))}
    </svg>
  );
}
