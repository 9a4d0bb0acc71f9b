import type { Schemas } from "../api/client";
import { armWords, Swatch } from "../ui/Swatch";
import { Clipped } from "./Clipped";
import { scale } from "./scale";

const WIDTH = 880;
const ROW = 62;
const TOP = 44;
const NAME = 292;
const SCORE_END = 590;
const PROB = 632;

/** Whether untested criteria or bounds leave a score open: then nobody certainly has a rank. */
export const isOpen = (ranking: Schemas["Ranking"]): boolean => ranking.ranked.some((r) => r.score_high - r.score_low > 0.001);

/** Shared ranks, scores with what is uncertain and untested, and the probability of every rank. */
export function RankFigure({ ranking, purpose }: { ranking: Schemas["Ranking"]; purpose: Schemas["PurposeView"] }) {
  const arms = new Map(purpose.arms.map((a) => [a.id, a]));
  const at = scale([0, 1], NAME, SCORE_END);
  const ranks = Math.max(2, ranking.ranked.filter((r) => r.rank !== null).length);
  const cellWidth = Math.min(50, (WIDTH - PROB - 4) / ranks);
  const height = TOP + ranking.ranked.length * ROW + 40;
  const words = ranking.ranked
    .map((r) => `${arms.get(r.arm_id)?.material.maker ?? ""} ${arms.get(r.arm_id)?.material.product ?? ""}: ${r.rank === null ? "ruled out" : `rank ${r.rank}`}`)
    .join("; ");
  const shared = (rank: number | null) => rank !== null && ranking.ranked.filter((r) => r.rank === rank).length > 1;
  return (
    <svg viewBox={`0 0 ${WIDTH} ${height}`} style={{ width: "100%", display: "block" }} role="img" aria-label={`Ranking: ${words}`} fontFamily="var(--sans)">
      <text x={NAME} y={16} fontSize="13" fill="var(--soft)">
        score, from 0 = no use to 1 = all that is needed
      </text>
      <text x={PROB} y={16} fontSize="13" fill="var(--soft)">
        {isOpen(ranking) ? "not distinguishable from rank, %" : "probability of rank, %"}
      </text>
      {Array.from({ length: ranks }, (_, k) => (
        <text key={k} x={PROB + (k + 0.5) * cellWidth} y={TOP - 8} textAnchor="middle" fontSize="12.5" fontFamily="var(--mono)" fill="var(--soft)">
          {k + 1}
        </text>
      ))}
      {[0, 0.25, 0.5, 0.75, 1].map((t) => (
        <g key={t}>
          <line x1={at(t)} x2={at(t)} y1={TOP} y2={height - 34} stroke="var(--line)" strokeWidth="0.8" />
          <text x={at(t)} y={height - 16} textAnchor="middle" fontSize="12.5" fontFamily="var(--mono)" fill="var(--soft)">
            {t}
          </text>
        </g>
      ))}
      {ranking.ranked.map((r, i) => {
        const arm = arms.get(r.arm_id);
        return arm && <RankRow key={r.arm_id} r={r} arm={arm} y={TOP + i * ROW + ROW / 2} at={at} shared={shared(r.rank)} ranks={ranks} cellWidth={cellWidth} />;
      })}
    </svg>
  );
}

interface RankRowProps {
  r: Schemas["Ranking"]["ranked"][number];
  arm: Schemas["ArmView"];
  /** The middle of the row. */
  y: number;
  at: (score: number) => number;
  shared: boolean;
  ranks: number;
  cellWidth: number;
}

function RankRow({ r, arm, y, at, shared, ranks, cellWidth }: RankRowProps) {
  const out = r.rank === null;
  const undecided = Object.values(r.requirements).includes("undecided");
  const passes = Object.keys(r.requirements).length > 0 && !out && !undecided;
  const tested = r.coverage < 0.999 && `${String(Math.round(r.coverage * 100))} % tested`;
  const said = [out ? "misses a requirement" : undecided ? "requirement undecided" : passes && "meets the requirement", tested].filter(Boolean).join(" · ");
  const lift = said ? 0 : 9;
  return (
    <g opacity={out ? 0.75 : 1}>
      <line x1={0} x2={WIDTH} y1={y + ROW / 2} y2={y + ROW / 2} stroke="var(--line)" strokeWidth="0.7" />
      <text x={28} y={y + 9} textAnchor="end" fontSize="26" fontWeight="700" fontFamily="var(--mono)" fill={out ? "var(--worse)" : "var(--ink)"}>
        {out ? "–" : r.rank}
      </text>
      {shared && (
        <text x={30} y={y - 8} fontSize="13" fill="var(--soft)">
          =
        </text>
      )}
      <Swatch x={42} y={y - 16} size={32} hex={arm.material.hex} mark={arm.mark} filled={arm.material.filler !== null} />
      <text x={86} y={y - 11 + lift} fontSize="15" fontWeight="650" fill="var(--ink)">
        {arm.material.maker} {arm.material.product}
      </text>
      <text x={86} y={y + 5 + lift} fontSize="12.5" fill="var(--soft)">
        <Clipped words={armWords(arm) || arm.material.colour} most={28} />
      </text>
      <text x={86} y={y + 21} fontSize="12.5" fill={out ? "var(--worse)" : undecided ? "var(--caution)" : "var(--soft)"}>
        {said}
      </text>
      <Score r={r} y={y} at={at} />
      {!out && Array.from({ length: ranks }, (_, k) => <Probability key={k} p={r.rank_probabilities[k] ?? 0} x={PROB + k * cellWidth} y={y} width={cellWidth} />)}
    </g>
  );
}

/** The score with its 90 % interval; a hollow bar where untested criteria leave it open. */
function Score({ r, y, at }: Pick<RankRowProps, "r" | "y" | "at">) {
  const open = r.score_high - r.score_low > 0.001;
  return (
    <>
      <line x1={at(r.score_ci90[0])} x2={at(Math.min(1, r.score_ci90[1]))} y1={y} y2={y} stroke="var(--accent)" strokeWidth="3" strokeLinecap="round" />
      {open ? (
        <rect x={at(r.score_low)} y={y - 8} width={at(r.score_high) - at(r.score_low)} height={16} rx="4" fill="var(--ground)" fillOpacity="0.8" stroke="var(--accent)" strokeWidth="1.6" />
      ) : (
        <circle cx={at(r.score_low)} cy={y} r="7" fill="var(--accent)" />
      )}
      <text x={at(r.score_low)} y={y - 14} textAnchor="middle" fontSize="13" fontFamily="var(--mono)" fill="var(--ink)">
        {open ? `${r.score_low.toFixed(2)} … ${r.score_high.toFixed(2)}` : r.score_low.toFixed(2)}
      </text>
    </>
  );
}

function Probability({ p, x, y, width }: { p: number; x: number; y: number; width: number }) {
  return (
    <g>
      <rect x={x + 1.5} y={y - 20} width={width - 3} height={40} rx="3" fill="var(--raised)" />
      <rect x={x + 1.5} y={y + 20 - 40 * p} width={width - 3} height={40 * p} rx="3" fill="var(--accent)" fillOpacity="0.32" />
      {p >= 0.005 && (
        <text x={x + width / 2} y={y + 5} textAnchor="middle" fontSize="13" fontFamily="var(--mono)" fill="var(--ink)">
          {Math.round(p * 100)}
        </text>
      )}
    </g>
  );
}
