import type { Schemas } from "../api/client";
import { setting, short, ticks } from "../ui/format";
import { shownUnit } from "../ui/units";

const LEFT = 74;
const RIGHT = 16;
const WIDTH = 560;
const ROW = 30;

/** The maker's temperatures on one scale: where nozzle, bed and chamber should be, and what drying bears. */
export function HeatWindow({ window: w, accent }: { window: Schemas["WindowView"]; accent: string }) {
  const rows = [
    { label: "nozzle", low: w.nozzle_low, high: w.nozzle_high },
    { label: "bed", low: w.bed_low, high: w.bed_high },
    { label: "chamber", low: w.chamber_low, high: w.chamber_high },
    { label: "drying", low: w.dry_temperature, high: w.dry_limit ?? w.dry_temperature },
  ].filter((r) => r.low !== null || r.high !== null);
  if (!rows.length) return <p className="soft">The maker gives no temperature.</p>;
  const x = (t: number) => LEFT + ((Math.min(Math.max(t, 20), 320) - 20) / 300) * (WIDTH - LEFT - RIGHT);
  const bottom = 8 + rows.length * ROW;
  const degrees = shownUnit("°C");
  const words = (low: number | null, high: number | null) => (low === null ? `up to ${setting(high ?? 0, "°C")}` : low === high || high === null ? setting(low, "°C") : `${short(degrees.at(low))}–${setting(high, "°C")}`);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${bottom + 40}`}
      style={{ width: "100%", display: "block" }}
      role="img"
      aria-label={`Temperatures the maker gives: ${rows.map((r) => `${r.label} ${words(r.low, r.high)}`).join(", ")}`}
      fontFamily="var(--sans)"
    >
      {ticks(degrees.at(30), degrees.at(310), 6).map((t) => (
        <g key={t}>
          <line x1={x(degrees.back(t))} x2={x(degrees.back(t))} y1="6" y2={bottom} stroke="var(--line)" strokeWidth="0.8" />
          <text x={x(degrees.back(t))} y={bottom + 16} textAnchor="middle" fontSize="12" fontFamily="var(--mono)" fill="var(--soft)">
            {t}
          </text>
        </g>
      ))}
      {rows.map((r, i) => {
        const low = r.low ?? 20;
        const high = r.high ?? low;
        const y = 8 + i * ROW;
        const wide = Math.max(x(high) - x(low), 5);
        const label = words(r.low, r.high);
        const left = x(high) + 8 + label.length * 7.2 > WIDTH - RIGHT;
        return (
          <g key={r.label}>
            <text x={LEFT - 10} y={y + 18} textAnchor="end" fontSize="13" fill="var(--ink)">
              {r.label}
            </text>
            <rect x={x(low)} y={y + 5} width={wide} height={ROW - 13} rx="3" fill={accent} stroke="var(--ink)" strokeWidth="1" />
            <text x={left ? x(low) - 8 : x(low) + wide + 8} y={y + 18} textAnchor={left ? "end" : "start"} fontSize="13" fontFamily="var(--mono)" fill="var(--ink)" stroke="var(--surface)" strokeWidth="3" paintOrder="stroke">
              {label}
            </text>
          </g>
        );
      })}
      <line x1={LEFT} x2={WIDTH - RIGHT} y1={bottom} y2={bottom} stroke="var(--ink)" />
      <text x={(LEFT + WIDTH - RIGHT) / 2} y={bottom + 34} textAnchor="middle" fontSize="12.5" fill="var(--soft)">
        temperature, {degrees.unit}
      </text>
    </svg>
  );
}
