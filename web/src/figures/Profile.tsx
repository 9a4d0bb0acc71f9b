import { useElementSize } from "@mantine/hooks";

import type { Schemas } from "../api/client";
import { Swatch } from "../ui/Swatch";
import { Interval } from "./Interval";
import { scale } from "./scale";

type Row = Schemas["AcrossRow"];
type Cell = Schemas["AcrossCell"];

interface ProfileProps {
  rows: readonly Row[];
  arms: readonly Schemas["ArmView"][];
  /** By arm id. */
  names: Readonly<Record<string, string>>;
  /** What is said of a cell: "+50 %, gains". */
  words: (row: Row, cell: Cell) => string;
  onTest: (testId: string) => void;
}

/** Differences beyond this many margins are drawn at the edge. */
const MOST = 5;
const LANE = 22;
const TOP = 34;

export const changeColour: Record<Schemas["Change"], string> = { gains: "var(--better)", "gives up": "var(--worse)", alike: "var(--equivalent)", differs: "var(--ink)", open: "var(--equivalent)" };

/** One row for each test: where each arm lies against the reference, in differences that matter, the good side on the right. */
export function Profile({ rows, arms, names, words, onTest }: ProfileProps) {
  const { ref, width: measured } = useElementSize();
  const width = measured || 860;
  const narrow = width < 560;
  const [left, right] = narrow ? [14, width - 14] : [Math.min(250, width * 0.32), width - 16];
  const at = scale([-MOST, MOST], left, right);
  const head = narrow ? 40 : 0;
  const laid: { row: Row; y: number; height: number }[] = [];
  let y = TOP;
  for (const row of rows) {
    const height = head + Math.max(narrow ? 0 : 46, 14 + LANE * arms.length);
    laid.push({ row, y, height });
    y += height;
  }
  const text = rows.map((row) => `${row.label}: ${arms.map((a) => saidOf(row, a, names, words)).join(", ")}`).join("; ");
  return (
    <div ref={ref}>
      <svg viewBox={`0 0 ${String(width)} ${String(y + 40)}`} style={{ width: "100%", display: "block" }} role="group" aria-label={`Gains and losses in every test. ${text}`} fontFamily="var(--sans)">
        <rect x={at(-1)} y={TOP} width={at(1) - at(-1)} height={y - TOP} fill="var(--raised)" />
        {[-4, -2, 2, 4].map((v) => (
          <line key={v} x1={at(v)} x2={at(v)} y1={TOP} y2={y} stroke="var(--line)" strokeWidth="0.7" />
        ))}
        <line x1={at(0)} x2={at(0)} y1={TOP} y2={y} stroke="var(--ink)" />
        <text x={at(-1) - 8} y={TOP - 12} textAnchor="end" fontSize="12.5" fill="var(--worse)">
          ◂ gives up
        </text>
        <text x={at(0)} y={TOP - 12} textAnchor="middle" fontSize="12" fill="var(--soft)">
          {narrow ? "alike" : "does not matter"}
        </text>
        <text x={at(1) + 8} y={TOP - 12} fontSize="12.5" fill="var(--better)">
          gains ▸
        </text>
        {laid.map(({ row, y: top, height }) => (
          <TestRow key={`${row.test_id ?? row.label}`} row={row} top={top} height={height} head={head} arms={arms} at={at} width={width} words={words} names={names} onTest={onTest} />
        ))}
        <line x1={left} x2={right} y1={y} y2={y} stroke="var(--ink)" />
        {[-MOST, -3, -1, 1, 3, MOST].map((v) => (
          <text key={v} x={at(v)} y={y + 17} textAnchor={v === MOST && !narrow ? "end" : "middle"} fontSize="12.5" fontFamily="var(--mono)" fill="var(--soft)">
            {`${v === -MOST ? "≤ " : v === MOST ? "≥ " : ""}${String(v).replace("-", "−")}`}
          </text>
        ))}
        <text x={(left + right) / 2} y={y + 35} textAnchor="middle" fontSize="12.5" fill="var(--soft)">
          difference from the reference ÷ difference that matters
        </text>
      </svg>
    </div>
  );
}

function saidOf(row: Row, arm: Schemas["ArmView"], names: ProfileProps["names"], words: ProfileProps["words"]): string {
  const cell = row.cells.find((c) => c.arm_id === arm.id);
  return `${names[arm.id] ?? arm.mark} ${cell ? words(row, cell) : "not measured"}`;
}

interface TestRowProps extends Omit<ProfileProps, "rows"> {
  row: Row;
  top: number;
  height: number;
  /** Room for the name above the lanes, where it does not fit beside them. */
  head: number;
  at: ReturnType<typeof scale>;
  width: number;
}

function TestRow({ row, top, height, head, arms, at, width, words, names, onTest }: TestRowProps) {
  const middle = top + head + (height - head) / 2;
  const [first, second] = head ? [top + 17, top + 32] : [middle - 4, middle + 13];
  const testId = row.test_id;
  const open = testId ? () => onTest(testId) : undefined;
  const below = row.quantity.label === row.label.toLowerCase() ? "" : row.quantity.label;
  return (
    <g>
      <line x1="0" x2={width} y1={top + height} y2={top + height} stroke="var(--line)" strokeWidth="0.7" />
      <g
        {...(open && {
          role: "link",
          tabIndex: 0,
          "aria-label": `${[row.label, row.orientation].filter(Boolean).join(", ")}: its findings`,
          style: { cursor: "pointer" },
          onClick: open,
          onKeyDown: (e: React.KeyboardEvent) => {
            if (e.key === "Enter") open();
          },
        })}
      >
        <text x="2" y={first} fontSize="14" fontWeight="650" fill="var(--ink)">
          {[row.label, row.orientation].filter(Boolean).join(", ")}
        </text>
        <rect x="0" y={first - 16} width={head ? width * 0.8 : at(-MOST) - 10} height="38" fill="transparent" />
      </g>
      <text x="2" y={second} fontSize="12" fill="var(--soft)" pointerEvents="none">
        {below}
      </text>
      {arms.map((arm, lane) => {
        const cell = row.cells.find((c) => c.arm_id === arm.id);
        const y = middle + (lane - (arms.length - 1) / 2) * LANE;
        return cell?.at == null ? (
          <g key={arm.id} opacity="0.75">
            <Swatch x={at(-MOST) - 4} y={y - 8} size={16} hex={arm.material.hex} mark={arm.mark} filled={arm.material.filler !== null} />
            <text x={at(-MOST) + 18} y={y + 4} fontSize="12" fill="var(--soft)" stroke="var(--ground)" strokeWidth={3} paintOrder="stroke">
              {cell ? words(row, cell) : "not measured"}
            </text>
          </g>
        ) : (
          <Placed key={arm.id} arm={arm} cell={cell} place={cell.at} y={y} at={at} said={`${names[arm.id] ?? arm.mark}: ${words(row, cell)}`} />
        );
      })}
    </g>
  );
}

function Placed({ arm, cell, place, y, at, said }: { arm: Schemas["ArmView"]; cell: Cell; place: number; y: number; at: TestRowProps["at"]; said: string }) {
  const colour = changeColour[cell.change ?? "open"];
  const x = at(Math.max(-MOST, Math.min(MOST, place)));
  return (
    <g>
      <title>{said}</title>
      {cell.interval && <Interval ci={cell.interval} at={at} y={y} colour={colour} width={cell.provisional ? 1.4 : 2.6} />}
      <Swatch x={x - 10} y={y - 10} size={20} hex={arm.material.hex} mark={arm.mark} filled={arm.material.filler !== null} title={said} />
    </g>
  );
}
