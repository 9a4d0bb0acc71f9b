import type { Schemas } from "../api/client";
import { boundSign, figure } from "../ui/format";
import type { Shown } from "../ui/units";
import { VerdictGlyph, verdictColour, type VerdictWord } from "../ui/Verdict";
import { Interval } from "./Interval";
import { Dot, MeanArrow } from "./Dot";
import type { Scale } from "./scale";

interface BoardCellProps {
  cell: Schemas["CellView"];
  verdict: VerdictWord | null;
  /** From values to pixels within the cell. */
  at: Scale;
  reference: number | null;
  margin: number | null;
  shown: Shown;
  width: number;
  height: number;
  /** Whether its answer was needed by now. @default false */
  late?: boolean;
  /** Whether its specimens are treated before they are tested. @default false */
  treatment?: boolean;
}

const JITTER = [0, 5, 10, 3, 8, 1, 6, 11, 4, 9];

/** One cell of the board: from a plan, over filling circles, to an interval plot. Decorative: the cell's label says it in words. */
export function BoardCell({ cell, verdict, at, reference, margin, shown, width, height, late = false, treatment = false }: BoardCellProps) {
  if (!cell.dots.length) return <Plan cell={cell} width={width} height={height} late={late} treatment={treatment} />;
  const colour = verdictColour[verdict ?? "no verdict"];
  const group = cell.group;
  const line = height * 0.42;
  const below = line + 12;
  const spread = height > 75 ? 1.5 : 1;
  return (
    <svg width={width} height={height} viewBox={`0 0 ${width} ${height}`} aria-hidden="true" style={{ display: "block" }}>
      {reference !== null && margin !== null && (
        <rect x={at(reference - margin)} y={16} width={at(reference + margin) - at(reference - margin)} height={height - 26} fill="var(--raised)" />
      )}
      {reference !== null && <line x1={at(reference)} x2={at(reference)} y1={13} y2={height - 9} stroke="var(--soft)" strokeDasharray="2 3" strokeWidth="1" />}
      {verdict && <VerdictGlyph verdict={verdict} x={6} y={5} />}
      {group && (
        <text x={width - 7} y={15} textAnchor="end" fontSize="13.5" fontWeight="700" fontFamily="var(--mono)" fill={colour}>
          {boundSign(group)}
          {figure(shown.at(group.mean), group.ci95 ? shown.ends(group.ci95) : null)}
        </text>
      )}
      {group?.ci95 && <Interval ci={group.ci95} at={at} y={line} colour={colour} width={2.4} />}
      {group && <circle cx={at(group.mean)} cy={line} r="4.6" fill={colour} />}
      {group && <MeanArrow group={group} x={at(group.mean)} y={line} r={4.6} colour={colour} />}
      {cell.dots.map(
        (dot, i) => dot.value !== null && <Dot key={dot.run_id} dot={dot} x={at(dot.value)} y={below + (JITTER[i % JITTER.length] ?? 0) * spread} r={height > 75 ? 3.2 : 2.6} colour={colour} />,
      )}
      {cell.tested < cell.planned && (
        <text x={7} y={height - 5} fontSize="11" fill={late ? "var(--caution)" : "var(--soft)"}>
          {cell.tested} of {cell.planned}
          {cell.printed > cell.tested && cell.printed < cell.planned && `, ${cell.printed} printed`}
          {late && ", late"}
        </text>
      )}
    </svg>
  );
}

/** Before anything is tested: open circles are planned, grey ones printed, with a dot treated, dark ones measured. */
function Plan({ cell, width, height, late, treatment }: { cell: Schemas["CellView"]; width: number; height: number; late: boolean; treatment: boolean }) {
  const shown = Math.min(cell.planned, 10);
  const gap = Math.min(14, (width - 20) / Math.max(1, shown));
  const start = width / 2 - ((shown - 1) * gap) / 2;
  return (
    <svg width={width} height={height} viewBox={`0 0 ${width} ${height}`} aria-hidden="true" style={{ display: "block" }}>
      {Array.from({ length: shown }, (_, i) => (
        <g key={i}>
          <circle cx={start + i * gap} cy={height * 0.42} r="4" fill={i < cell.measured ? "var(--soft)" : i < cell.printed ? "var(--line)" : "none"} stroke="var(--soft)" strokeWidth="1" />
          {i < cell.treated && i >= cell.measured && <circle cx={start + i * gap} cy={height * 0.42} r="1.5" fill="var(--ink)" />}
        </g>
      ))}
      <text x={width / 2} y={height * 0.42 + 21} textAnchor="middle" fontSize="11.5" fill={late ? "var(--caution)" : "var(--soft)"}>
        {planWords(cell, treatment)}
        {late && ", late"}
      </text>
    </svg>
  );
}

function planWords(cell: Schemas["CellView"], treatment: boolean): string {
  if (cell.measured > 0) return `${String(cell.measured)} measured, 0 of ${String(cell.planned)} done`;
  if (!cell.printed) return `${String(cell.planned)} planned`;
  const printed = cell.printed < cell.planned ? `${String(cell.printed)} of ${String(cell.planned)} printed` : `${String(cell.planned)} printed`;
  return treatment ? `${printed}, ${String(cell.treated)} treated` : printed;
}
