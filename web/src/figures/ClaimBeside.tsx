import { figure, interval, plain, ticks } from "../ui/format";
import { domainOf, scale } from "./scale";
import type { Shown } from "../ui/units";

interface ClaimBesideProps {
  claimed: number;
  relation: string;
  mean: number;
  /** "≥ " or "≤ " where the mean is a bound. */
  sign: string;
  ci: readonly [number, number] | null;
  values: readonly number[];
  shown: Shown;
}

const WIDTH = 300;

/** A maker's figure (flag) beside what was measured (dots, mean, 95 % interval), on one scale. */
export function ClaimBeside({ claimed, relation, mean, sign, ci, values, shown }: ClaimBesideProps) {
  const at = scale(domainOf([0, claimed, mean, ...values, ...(ci ?? [])].filter((v) => v !== 0), 0.12), 8, WIDTH - 8);
  const words = `claimed ${relation === "value" ? "" : relation} ${plain(shown.at(claimed))} ${shown.unit}; measured ${sign}${figure(shown.at(mean))} ${shown.unit}${ci ? `, 95 % interval ${interval(shown.ends(ci))}` : ""}, n ${values.length}`;
  return (
    <svg viewBox={`0 0 ${WIDTH} 56`} width={WIDTH} height="56" role="img" aria-label={words}>
      <line x1="8" x2={WIDTH - 8} y1="32" y2="32" stroke="var(--line)" />
      {ticks(shown.at(at.domain[0]), shown.at(at.domain[1]), 3).map((t) => (
        <g key={t}>
          <line x1={at(shown.back(t))} x2={at(shown.back(t))} y1="38" y2="42" stroke="var(--soft)" />
          <text x={at(shown.back(t))} y="53" textAnchor="middle" fontSize="11" fontFamily="var(--mono)" fill="var(--soft)">
            {plain(t)}
          </text>
        </g>
      ))}
      {values.map((v, i) => (
        <circle key={i} cx={at(v)} cy="32" r="3.2" fill="none" stroke="var(--soft)" />
      ))}
      {ci && <line x1={at(ci[0])} x2={at(ci[1])} y1="32" y2="32" stroke="var(--ink)" strokeWidth="3" strokeLinecap="round" />}
      <circle cx={at(mean)} cy="32" r="5" fill="var(--ink)" />
      <path d={`M${at(claimed)} 42V8h13l-4 4.5 4 4.5h-13`} fill="var(--accent)" stroke="var(--accent)" strokeWidth="1.4" />
    </svg>
  );
}
