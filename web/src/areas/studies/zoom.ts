import type { Schemas } from "../../api/client";

/** How close one looks at a board: marks of how far it is and what was found, intervals, everything. */
export const ZOOMS = ["marks", "intervals", "all"] as const;
export type Zoom = (typeof ZOOMS)[number];

/** The closest look at which a board of so many arms and tests can still be overlooked. */
export function fitting(arms: number, tests: number): Zoom {
  if (arms > 24 || tests > 10) return "marks";
  return arms > 12 || tests > 6 ? "intervals" : "all";
}

/** One step closer or farther; it stops at both ends. */
export const nearer = (zoom: Zoom, step: number): Zoom => ZOOMS[Math.max(0, Math.min(ZOOMS.length - 1, ZOOMS.indexOf(zoom) + step))] ?? zoom;

/** Height of a row and width of the heads, px. */
export const rowHeight = (zoom: Zoom, arms: number) => ({ marks: arms > 24 ? 18 : 27, intervals: 40, all: arms <= 6 ? 88 : 63 })[zoom];

/** Width of a column in the room there is, px. */
export function columnWidth(zoom: Zoom, free: number, tests: number): number {
  const each = Math.floor(free / Math.max(1, tests));
  if (zoom === "marks") return Math.max(34, Math.min(64, each));
  return zoom === "intervals" ? Math.max(92, Math.min(180, each)) : Math.max(118, Math.min(330, each));
}

type Cell = Pick<Schemas["CellView"], "planned" | "printed" | "treated" | "tested" | "dots">;

/** How far a cell is, in words: what is tested, printed, treated, left out; and whether it is late. */
export function stageWords(cell: Cell, treatment: boolean, late: boolean): string {
  const out = cell.dots.filter((d) => d.state === "left_out").length;
  return [
    `${String(cell.tested)} of ${String(cell.planned)} tested`,
    cell.printed > cell.tested && `${String(cell.printed)} printed`,
    treatment && cell.printed > 0 && `${String(cell.treated)} treated`,
    out > 0 && `${String(out)} left out`,
    late && cell.tested < cell.planned && "late",
  ]
    .filter(Boolean)
    .join(", ");
}
