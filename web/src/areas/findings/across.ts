import type { Schemas } from "../../api/client";
import { apartOf } from "../../figures/apart";
import type { Cell as TableCell } from "../../figures/download";
import type { Response } from "../../figures/Responses";
import { capital, inText } from "../../ui/format";
import { shownQuantity, shownUnit } from "../../ui/units";

type Across = Schemas["AcrossView"];
type Row = Schemas["AcrossRow"];
type Cell = Schemas["AcrossCell"];

/** "+50 %", "+4.2 °C": how far a cell is from the reference, with its unit; "1.4 ×" would say less. */
export function sizeOf(row: Row, cell: Cell): string {
  const shown = shownQuantity(row.quantity);
  const apart = apartOf(cell, shown);
  if (!apart) return "";
  return apart.size.endsWith("%") || !shown.unit ? apart.size : `${apart.size} ${shown.unit}`;
}

/** What a cell says in the figure: its difference and what that means; why nothing is decided. */
export function cellWords(row: Row, cell: Cell): string {
  if (cell.change === null || cell.change === undefined) return "reference";
  const n = cell.group?.n ?? 0;
  const size = sizeOf(row, cell);
  const few = cell.change === "open" && cell.group && n < 3 ? `n ${String(n)}` : "";
  const none = cell.at === null ? "no margin" : "";
  return [size, cell.change, few, none].filter(Boolean).join(", ");
}

/** The name of a row among the others: its quantity, with the test and orientation where others have the same. */
export function rowName(row: Row, rows: readonly Row[]): string {
  const same = rows.filter((r) => r.quantity.label === row.quantity.label);
  if (same.length < 2) return row.quantity.label;
  const sameTest = same.filter((r) => r.label === row.label);
  return `${row.quantity.label} (${[row.label.toLowerCase(), sameTest.length > 1 && row.orientation].filter(Boolean).join(", ")})`;
}

export const CHANGES = ["gains", "gives up", "alike", "differs", "open"] as const;

/** By kind of change, what changing from the reference to an arm brings: "strength +50 %", the greatest first. */
export function changesOf(across: Across, armId: string): { change: (typeof CHANGES)[number]; parts: { name: string; size: string }[] }[] {
  return CHANGES.map((change) => {
    const cells = across.rows.flatMap((row) => row.cells.filter((c) => c.arm_id === armId && c.change === change).map((cell) => ({ row, cell })));
    cells.sort((a, b) => Math.abs(b.cell.at ?? 0) - Math.abs(a.cell.at ?? 0));
    return {
      change,
      parts: cells.map(({ row, cell }) => {
        const n = cell.group?.n ?? 0;
        const few = change === "open" && n > 0 && n < 3 ? `n ${String(n)}` : "";
        return { name: rowName(row, across.rows), size: change === "alike" ? "" : change === "open" ? few : sizeOf(row, cell) };
      }),
    };
  }).filter((c) => c.parts.length > 0);
}

/** The profile as a sentence for each arm, ready to copy. */
export function profileText(across: Across, armIds: readonly string[]): string {
  const reference = across.names[across.reference_arm_id ?? ""] ?? "";
  return armIds
    .map((id) => `${across.names[id] ?? ""} against ${reference}: ${changesOf(across, id).map((c) => `${c.change} ${c.parts.map((p) => [p.name, p.size].filter(Boolean).join(" ")).join(", ")}`).join("; ")}.`)
    .join("\n");
}

/** Every cell with its numbers in the unit shown. */
export function profileRows(across: Across): TableCell[][] {
  const reference = across.names[across.reference_arm_id ?? ""] ?? "";
  return [
    ["test", "orientation", "quantity", "unit", "material", "mean", "n", "against", "difference", "change", "margins", "margins_low", "margins_high", "notes"],
    ...across.rows.flatMap((row) => {
      const shown = shownQuantity(row.quantity);
      return row.cells.map((c): TableCell[] => [row.label, row.orientation, row.quantity.label, shown.unit, across.names[c.arm_id] ?? "", shown.at(c.value), c.group?.n ?? null, reference, sizeOf(row, c), c.change ?? "reference", c.at ?? null, c.interval?.[0] ?? null, c.interval?.[1] ?? null, c.notes.join("; ")]);
    }),
  ];
}

/** Every row of a study that varied one setting, over that setting; strengths and the like also per hour of printing. */
export function responsesOf(across: Schemas["AcrossView"]): Response[] {
  const levels = across.varied?.levels;
  if (!levels) return [];
  const shownLevel = (arm: string) => shownUnit(across.varied?.unit ?? "").at(levels[arm] ?? 0);
  const times = new Map(across.rows.find((r) => r.quantity.name === "print_time")?.cells.map((c) => [c.arm_id, c.value / 60]) ?? []);
  return across.rows.flatMap((row) => {
    const cells = row.cells.filter((c) => levels[c.arm_id] !== undefined);
    if (cells.length < 2) return [];
    const shown = shownQuantity(row.quantity);
    const of = (quantity: string) => (row.test_id === null ? row.label : `${capital(quantity)}, ${inText(row.label)}`);
    const title = of(row.quantity.label);
    const byLevel = (points: Response["points"]) => [...points].sort((a, b) => a.x - b.x);
    const plain: Response = { title, unit: shown.unit, goodSide: row.quantity.good_side, points: byLevel(cells.map((c) => ({ x: shownLevel(c.arm_id), mean: shown.at(c.value), ci95: c.group?.ci95 ? shown.ends(c.group.ci95) : null }))) };
    const timed = cells.filter((c) => times.has(c.arm_id));
    if (row.test_id === null || row.quantity.good_side !== "higher" || timed.length < 2) return [plain];
    const perHour = timed.map((c) => ({ x: shownLevel(c.arm_id), mean: (c.value * shown.factor) / (times.get(c.arm_id) ?? 1), ci95: c.group?.ci95 ? ([(c.group.ci95[0] * shown.factor) / (times.get(c.arm_id) ?? 1), (c.group.ci95[1] * shown.factor) / (times.get(c.arm_id) ?? 1)] as const) : null }));
    return [plain, { title: of(`${row.quantity.label} per hour`), unit: `${shown.unit}/h`, goodSide: "higher", points: byLevel(perHour) }];
  });
}
