import type { Entry } from "../../areas/bench/entry";

/** Rows of a log: those that hold something, and one more to go on with. */
export function rowsOf(entry: Pick<Entry, "values">, ...fields: readonly string[]): number {
  const held = Object.entries(entry.values)
    .filter(([key, raw]) => raw.trim() !== "" && fields.includes(key.slice(0, key.lastIndexOf("-"))))
    .map(([key]) => Number(key.slice(key.lastIndexOf("-") + 1)));
  return Math.max(-1, ...held) + 2;
}
