import type { Schemas } from "../../api/client";

type Method = Schemas["MethodView"];

/** A fact of a rig that methods take from it, in the base unit of its dimension: a span, a hammer's mass, a liquid's density. */
export interface Fact {
  name: string;
  label: string;
  unit: string;
  needed: boolean;
  /** A number that may be nothing: yes or no. */
  flag: boolean;
}

/** What methods need of a rig: its channels by name with their dimension, and facts of its own. */
export function needsOf(methods: readonly Method[]): { channels: [string, string][]; facts: Fact[]; places: boolean } {
  const fields = methods.flatMap((m) => m.steps.flatMap((s) => s.fields));
  const channels = new Map(fields.filter((f) => f.channel !== null && f.from_rig === null).map((f) => [f.channel ?? "", f.dimension] as const));
  const facts = new Map<string, Fact>();
  for (const f of fields) {
    const number = f.dimension === "number";
    if (f.from_rig !== null && !facts.has(f.from_rig)) facts.set(f.from_rig, { name: f.from_rig, label: f.label, unit: number ? "" : f.base, needed: f.needed > 0, flag: number && f.sign === "zero allowed" });
  }
  return { channels: [...channels], facts: [...facts.values()], places: methods.some((m) => m.steps.some((s) => s.kind === "rounds")) };
}

/** What a display would show in its step, and what that reads: with two implied decimals "2047" is 20.47. */
export function displayExample(decimals: number, step: number): { shown: string; read: string } {
  if (decimals > 0) return { shown: "2047", read: (2047 / 10 ** decimals).toFixed(decimals) };
  const shown = (20.47).toFixed(Math.min(6, Math.max(0, Math.ceil(-Math.log10(step) - 1e-9))));
  return { shown, read: shown };
}

/** The finest step that a display with so many decimals can show. */
export const stepOf = (decimals: number): string => (decimals > 0 ? (10 ** -decimals).toFixed(decimals) : "");
