import type { Schemas } from "../../api/client";

/** A setting that is studied, with its values as typed. */
export interface FactorTyped {
  name: string | null;
  typed: string;
  /** A setting that moves along, with as many values: together they are one factor. */
  beside?: { name: string | null; typed: string } | undefined;
}

/** Values in the order typed, apart by semicolons or spaces; null where one is no number. A comma is a decimal mark. */
export function levelsOf(typed: string): number[] | null {
  const words = typed.split(/[;\s]+/).filter(Boolean);
  const values = words.map((w) => Number(w.replace(",", ".")));
  return values.some((v) => !Number.isFinite(v)) ? null : values;
}

/** The question that the settings as typed make; null until each has two values or more. */
export function questionOf(factors: readonly FactorTyped[], kind: Schemas["DesignQuestion"]["kind"], halvings: number, runs: number): Schemas["DesignQuestion"] | null {
  const told = factors.map((f) => ({ name: f.name, levels: levelsOf(f.typed) }));
  if (factors.some((f) => f.beside && (!f.beside.name || levelsOf(f.beside.typed)?.length !== levelsOf(f.typed)?.length))) return null;
  if (!told.length || told.some((f) => f.name === null || f.levels === null || f.levels.length < 2)) return null;
  return { kind, halvings, runs, seed: 1, factors: told.map((f) => ({ name: f.name ?? "", levels: f.levels ?? [] })) };
}

/** What moves along at a value: in step with the levels, straight between them. */
export function besideAt(levels: readonly number[], along: readonly number[], value: number): number {
  const pairs = levels.map((x, i) => [x, along[i] ?? 0] as const).sort((a, b) => a[0] - b[0]);
  const at = pairs.findIndex(([x]) => x >= value);
  const [b, a] = [pairs[at < 0 ? pairs.length - 1 : Math.max(at, 1)], pairs[at < 0 ? pairs.length - 2 : Math.max(at - 1, 0)]];
  if (!a || !b || b[0] === a[0]) return a?.[1] ?? 0;
  return Number((a[1] + ((value - a[0]) / (b[0] - a[0])) * (b[1] - a[1])).toPrecision(6));
}

/** The names that are studied, those that move together as one. */
export const studiedNames = (factors: readonly FactorTyped[]): string[] => factors.flatMap((f) => (f.name ? [f.beside?.name ? `${f.name}+${f.beside.name}` : f.name] : []));

/** A run with the values of what moves along. */
export function withBeside(run: Record<string, number>, factors: readonly FactorTyped[]): Record<string, number> {
  const along = factors.flatMap((f) => {
    const value = f.name ? run[f.name] : undefined;
    return f.beside?.name && value !== undefined ? [[f.beside.name, besideAt(levelsOf(f.typed) ?? [], levelsOf(f.beside.typed) ?? [], value)] as const] : [];
  });
  return { ...run, ...Object.fromEntries(along) };
}
