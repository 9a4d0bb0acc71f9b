import { useSyncExternalStore } from "react";

import type { Schemas } from "../api/client";

type Option = Schemas["ShownUnit"][];

const KEY = "assayer.units";
const listeners = new Set<() => void>();

let text: string | null = null;
let chosen: Record<string, Option> = {};
let byBase = new Map<string, Schemas["ShownUnit"]>();

const isShown = (u: unknown): u is Schemas["ShownUnit"] => {
  const { base, unit, factor, offset } = (u ?? {}) as Record<string, unknown>;
  return typeof base === "string" && typeof unit === "string" && Number.isFinite(factor) && factor !== 0 && Number.isFinite(offset);
};

/** What is kept in this browser; what cannot be read is as if nothing had been chosen. */
function read(): string | null {
  const kept = typeof localStorage === "undefined" ? null : localStorage.getItem(KEY);
  if (kept === text) return text;
  text = kept;
  try {
    const found = Object.entries(JSON.parse(kept ?? "{}") as Record<string, unknown>);
    chosen = Object.fromEntries(found.filter((entry): entry is [string, Option] => Array.isArray(entry[1]) && entry[1].every(isShown)));
  } catch {
    chosen = {};
  }
  byBase = new Map(Object.values(chosen).flatMap((option) => option.map((u) => [u.base, u] as const)));
  return text;
}
read();

function subscribe(tell: () => void): () => void {
  listeners.add(tell);
  window.addEventListener("storage", tell);
  return () => {
    listeners.delete(tell);
    window.removeEventListener("storage", tell);
  };
}

/** Draws anew whatever calls it once other units are chosen, in this tab or another. */
export function useUnits(): Readonly<Record<string, Option>> {
  useSyncExternalStore(subscribe, read);
  return chosen;
}

/** Chooses how a kind of quantity is shown in this browser; null goes back to what is kept. The data stay as they are. */
export function chooseUnits(name: string, option: Option | null): void {
  read();
  localStorage.setItem(KEY, JSON.stringify({ ...Object.fromEntries(Object.entries(chosen).filter(([other]) => other !== name)), ...(option ? { [name]: option } : {}) }));
  read();
  listeners.forEach((tell) => tell());
}

/** How values of a kept unit are shown. */
export interface Shown {
  unit: string;
  /** For differences and widths. */
  factor: number;
  /** A kept value as it is shown. */
  at: (value: number) => number;
  /** Both ends of an interval as they are shown. */
  ends: (ci: readonly number[]) => [number, number];
  /** The kept value of a shown one. */
  back: (shown: number) => number;
}

export function linear(unit: string, factor: number, offset = 0): Shown {
  const at = (value: number) => value * factor + offset;
  return { unit, factor, at, ends: (ci) => [at(ci[0] ?? 0), at(ci[1] ?? 0)], back: (shown) => (shown - offset) / factor };
}

/** A kept unit as it is shown here: ratios in per cent, others as chosen. */
export function shownUnit(unit: string): Shown {
  if (unit === "1") return linear("%", 100);
  const other = byBase.get(unit);
  return other ? linear(other.unit, other.factor, other.offset) : linear(unit, 1);
}

/** A quantity as it is shown; what is derived from two tests is a plain ratio. */
export function shownQuantity(quantity: { unit: string; derived: boolean }): Shown {
  return quantity.derived ? linear("", 1) : shownUnit(quantity.unit);
}
