import type { Schemas } from "../../api/client";

/** A setting that is studied, with its values as typed. */
export interface FactorTyped {
  name: string | null;
  typed: string;
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
  if (!told.length || told.some((f) => f.name === null || f.levels === null || f.levels.length < 2)) return null;
  return { kind, halvings, runs, seed: 1, factors: told.map((f) => ({ name: f.name ?? "", levels: f.levels ?? [] })) };
}
