import type { Schemas } from "../api/client";
import { VerdictGlyph, verdictColour, type VerdictWord } from "../ui/Verdict";
import { Interval } from "./Interval";
import type { Scale } from "./scale";

interface BoardMarkProps {
  cell: Schemas["CellView"];
  verdict: VerdictWord | null;
  width: number;
  height: number;
  late: boolean;
}

/** A cell from far: its verdict, and below it how far it is: tested, printed, planned. Decorative: the cell's label says it in words. */
export function BoardMark({ cell, verdict, width, height, late }: BoardMarkProps) {
  const left = 4;
  const full = width - 2 * left;
  const share = (n: number) => (full * n) / Math.max(1, cell.planned);
  const out = cell.dots.some((d) => d.state === "left_out");
  return (
    <svg width={width} height={height} viewBox={`0 0 ${width} ${height}`} aria-hidden="true" style={{ display: "block" }}>
      {verdict && <VerdictGlyph verdict={verdict} x={width / 2 - 6} y={(height - 4) / 2 - 6} />}
      {!verdict && cell.group && <circle cx={width / 2} cy={(height - 4) / 2} r={3.6} fill="var(--soft)" />}
      <rect x={left} y={height - 4} width={full} height={3} fill="none" stroke="var(--line)" strokeWidth={0.8} />
      <rect x={left} y={height - 4} width={share(cell.printed)} height={3} fill="var(--line)" />
      <rect x={left} y={height - 4} width={share(cell.tested)} height={3} fill={late && cell.tested < cell.planned ? "var(--caution)" : "var(--ink)"} />
      {out && <circle cx={width - 6} cy={6} r={2.6} fill="none" stroke="var(--ink)" />}
      {late && cell.tested < cell.planned && <path d="M4 3.5v5M4 10.5v1.4" stroke="var(--caution)" strokeWidth={1.8} />}
    </svg>
  );
}

interface BoardIntervalProps extends BoardMarkProps {
  at: Scale;
  reference: number | null;
  margin: number | null;
}

/** A cell from nearer: the mean with its interval against the reference and the difference that matters. */
export function BoardInterval({ cell, verdict, width, height, late, at, reference, margin }: BoardIntervalProps) {
  const group = cell.group;
  if (!group) return <BoardMark cell={cell} verdict={verdict} width={width} height={height} late={late} />;
  const colour = verdictColour[verdict ?? "no verdict"];
  const line = height / 2 + 4;
  return (
    <svg width={width} height={height} viewBox={`0 0 ${width} ${height}`} aria-hidden="true" style={{ display: "block" }}>
      {reference !== null && margin !== null && <rect x={at(reference - margin)} y={3} width={at(reference + margin) - at(reference - margin)} height={height - 6} fill="var(--raised)" />}
      {reference !== null && <line x1={at(reference)} x2={at(reference)} y1={2} y2={height - 2} stroke="var(--soft)" strokeDasharray="2 3" strokeWidth="1" />}
      {verdict && <VerdictGlyph verdict={verdict} x={4} y={2} />}
      {group.ci95 && <Interval ci={group.ci95} at={at} y={line} colour={colour} width={2} />}
      <circle cx={at(group.mean)} cy={line} r="3.6" fill={colour} />
      {cell.tested < cell.planned && (
        <text x={width - 5} y={11} textAnchor="end" fontSize="10" fill={late ? "var(--caution)" : "var(--soft)"}>
          {cell.tested} of {cell.planned}
        </text>
      )}
    </svg>
  );
}
