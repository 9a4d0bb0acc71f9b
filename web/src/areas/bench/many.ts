import type { Schemas } from "../../api/client";

export type Row = Schemas["ManyRow"];

/** Files go in bundles of about this many. */
export const BUNDLE = 40;

export function bundles<T>(files: readonly T[], size = BUNDLE): T[][] {
  return Array.from({ length: Math.ceil(files.length / size) }, (_, i) => files.slice(i * size, (i + 1) * size));
}

/** Gives a row another specimen (or none); one that had it before is left without. */
export function assigned(rows: readonly Row[], id: string, specimen: { specimen_id: string; code: string } | null): Row[] {
  return rows.map((r) => {
    if (r.id === id) return { ...r, specimen_id: specimen?.specimen_id ?? null, code: specimen?.code ?? null, matched: null };
    return specimen && r.specimen_id === specimen.specimen_id ? { ...r, specimen_id: null, code: null, matched: null } : r;
  });
}

/** Why a row cannot be taken in yet; null where it can. */
export function lacking(row: Row, measured: ReadonlySet<string>, needsSection: boolean, common: boolean): string | null {
  if (row.error) return row.error;
  if (row.specimen_id === null) return row.doubt ? `${row.doubt}: of which specimen?` : "of which specimen?";
  return needsSection && !measured.has(row.specimen_id) && !common ? "its dimensions are not measured yet" : null;
}

/** Points of a small curve in a box, as a path. */
export function sparkline(points: readonly (readonly [number, number])[], w: number, h: number): string {
  const xs = points.map((p) => p[0]);
  const ys = points.map((p) => p[1]);
  const [x0, y0] = [Math.min(...xs), Math.min(...ys)];
  const [dx, dy] = [Math.max(...xs) - x0 || 1, Math.max(...ys) - y0 || 1];
  return points.map(([x, y], i) => `${i ? "L" : "M"}${((w * (x - x0)) / dx).toFixed(1)} ${(h - (h * (y - y0)) / dy).toFixed(1)}`).join("");
}
