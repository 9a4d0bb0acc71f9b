import { fixed, tickLabel, ticks } from "../ui/format";
import { Clipped } from "./Clipped";
import { Interval } from "./Interval";
import { domainWith, scale } from "./scale";

export interface ClaimShare {
  /** As the maker words it. */
  claim: string;
  /** Where it was measured, if in several studies. */
  study: string;
  /** In % of what is claimed. */
  measured: number;
  ci95: readonly [number, number] | null;
  n: number;
  verdict: string;
  colour: string;
}

const WIDTH = 620;
const ROW = 46;
const LEFT = 12;
const RIGHT = 200;

/** What was measured of each claim, in % of what is claimed: one scale for claims in any unit. */
export function ClaimShares({ rows }: { rows: readonly ClaimShare[] }) {
  const at = scale(domainWith([100, ...rows.map((r) => r.measured)], rows.flatMap((r) => (r.ci95 ? [r.ci95] : []))), LEFT, WIDTH - RIGHT);
  const bottom = 14 + rows.length * ROW;
  const marks = ticks(at.domain[0], at.domain[1], 5);
  const words = rows.map((r) => `${r.claim}: measured ${fixed(r.measured, 0)} % of it, n ${String(r.n)}, ${r.verdict}`).join("; ");
  return (
    <svg viewBox={`0 0 ${String(WIDTH)} ${String(bottom + 46)}`} width="100%" style={{ maxWidth: WIDTH, display: "block" }} role="img" aria-label={`Measured in per cent of what is claimed. ${words}`} fontFamily="var(--sans)">
      <line x1={at(100)} x2={at(100)} y1="4" y2={bottom} stroke="var(--accent)" strokeWidth="2" />
      {rows.map((r, i) => {
        const y = 14 + i * ROW;
        return (
          <g key={`${r.claim} ${r.study} ${String(r.measured)}`}>
            <text x={LEFT} y={y + 10} fontSize="13" fill="var(--ink)" stroke="var(--ground)" strokeWidth="3" paintOrder="stroke">
              <Clipped words={[`“${r.claim}”`, r.study].filter(Boolean).join(" · ")} most={64} />
            </text>
            {r.ci95 && <Interval ci={r.ci95} at={at} y={y + 26} colour={r.colour} width={3.2} />}
            <circle cx={at(r.measured)} cy={y + 26} r="5.5" fill={r.colour} />
            <text x={WIDTH - RIGHT + 14} y={y + 24} fontSize="14" fontWeight="700" fill={r.colour}>
              {r.verdict}
            </text>
            <text x={WIDTH - RIGHT + 14} y={y + 40} fontSize="12.5" fontFamily="var(--mono)" fill="var(--soft)">
              {`${fixed(r.measured, 0)} %, n ${String(r.n)}`}
            </text>
          </g>
        );
      })}
      <line x1={LEFT} x2={WIDTH - RIGHT} y1={bottom} y2={bottom} stroke="var(--ink)" />
      {marks.map((t) => (
        <text key={t} x={at(t)} y={bottom + 18} textAnchor="middle" fontSize="12.5" fontFamily="var(--mono)" fill="var(--soft)">
          {tickLabel(t, marks)}
        </text>
      ))}
      <text x={(LEFT + WIDTH - RIGHT) / 2} y={bottom + 38} textAnchor="middle" fontSize="13" fill="var(--soft)">
        measured, % of what is claimed; mean with 95 % interval
      </text>
    </svg>
  );
}
