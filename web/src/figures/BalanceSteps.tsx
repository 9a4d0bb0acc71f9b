import type { Schemas } from "../api/client";
import { amount, onDay, setting, tickLabel, ticks } from "../ui/format";
import { domainOf, scale } from "./scale";
import { shownUnit } from "../ui/units";

interface BalanceStepsProps {
  points: readonly Schemas["BalancePoint"][];
  label: number | null;
  from: string;
  hex: string;
}

const W = 560;
const H = 210;
const LEFT = 58;
const RIGHT = 16;

/** What the book says is left, step by step: prints go down, a weighing sets it right. */
export function BalanceSteps({ points, label, from, hex }: BalanceStepsProps) {
  const now = Date.now();
  const start = Math.min(new Date(from).getTime(), ...points.map((p) => new Date(p.at).getTime()));
  const x = scale([start, Math.max(now, start + 3_600_000)], LEFT, W - RIGHT);
  const domain = domainOf([0, label ?? 0, ...points.map((p) => p.left)], 0.05);
  const y = scale([Math.min(0, domain[0] + (domain[1] - domain[0]) * 0.045), domain[1]], H - 44, 10);
  const grams = shownUnit("g");
  const marks = ticks(0, grams.at(domain[1]), 4);
  const steps = points.map((p) => ({ ...p, x: x(new Date(p.at).getTime()), y: y(p.left) }));
  const first = steps[0];
  const begin = label !== null && first?.event !== "weighed" ? y(label) : (first?.y ?? y(0));
  const path = steps.reduce((d, s) => `${d}H${s.x}V${s.y}`, `M${LEFT} ${begin}`);
  const last = steps.at(-1);
  const text = steps.map((s) => `${onDay(s.at)} ${s.event}: ${amount(s.left, "g", 0)}`).join(", ");
  return (
    <svg viewBox={`0 0 ${W} ${H}`} style={{ width: "100%", display: "block" }} role="img" aria-label={`Filament left: ${text}`} fontFamily="var(--sans)">
      {marks.map((t) => (
        <g key={t}>
          <line x1={LEFT} x2={W - RIGHT} y1={y(grams.back(t))} y2={y(grams.back(t))} stroke="var(--line)" strokeWidth="0.8" />
          <text x={LEFT - 7} y={y(grams.back(t)) + 4} textAnchor="end" fontSize="12" fontFamily="var(--mono)" fill="var(--soft)">
            {tickLabel(t, marks)}
          </text>
        </g>
      ))}
      {label !== null && (
        <g>
          <line x1={LEFT} x2={W - RIGHT} y1={y(label)} y2={y(label)} stroke="var(--soft)" strokeDasharray="4 3" />
          <text x={W - RIGHT} y={y(label) - 5} textAnchor="end" fontSize="12" fill="var(--soft)">
            label {setting(label, "g")}
          </text>
        </g>
      )}
      {last && <path d={`${path}H${W - RIGHT}V${y(0)}H${LEFT}Z`} fill={hex} opacity="0.32" />}
      {last && <path d={`${path}H${W - RIGHT}`} fill="none" stroke="var(--ink)" strokeWidth="1.8" />}
      {steps.map((s, i) =>
        s.event === "weighed" ? (
          <g key={i}>
            <rect x={s.x - 5} y={s.y - 5} width="10" height="10" fill="var(--surface)" stroke="var(--ink)" strokeWidth="1.8" />
            <title>{`weighed ${onDay(s.at)}: ${amount(s.left, "g", 1)}${s.correction !== null ? `, corrected by ${amount(s.correction, "g", 1)}` : ""}`}</title>
          </g>
        ) : s.event === "printed" ? (
          <circle key={i} cx={s.x} cy={s.y} r="3.6" fill="var(--ink)">
            <title>{`printed ${onDay(s.at)}: ${amount(s.left, "g", 1)} left`}</title>
          </circle>
        ) : null,
      )}
      <line x1={LEFT} x2={W - RIGHT} y1={y(0)} y2={y(0)} stroke="var(--ink)" />
      <text x={LEFT} y={H - 26} fontSize="12" fill="var(--soft)">
        {onDay(new Date(start).toISOString())}
      </text>
      <text x={W - RIGHT} y={H - 26} textAnchor="end" fontSize="12" fill="var(--soft)">
        now
      </text>
      <text x={(LEFT + W) / 2} y={H - 8} textAnchor="middle" fontSize="12.5" fill="var(--soft)">
        □ weighed · ● printed
      </text>
      <text x="13" y={(H - 34) / 2} fontSize="12.5" fill="var(--soft)" transform={`rotate(-90 13 ${(H - 34) / 2})`} textAnchor="middle">
        filament left, {grams.unit}
      </text>
    </svg>
  );
}
