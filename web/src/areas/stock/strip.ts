import type { Schemas } from "../../api/client";

type Part = Schemas["StripPart"];
type Measured = Pick<Schemas["StockItem"], "measured">;

/** Columns that the table has room for; what is left is told together. */
export const MOST = 4;

/** The tests that these materials have been through most, in the order of the methods; before the first one, the whole list would only be dashes. */
export function shownParts(strip: readonly Part[], items: readonly Measured[]): Part[] {
  const total = (p: Part) => items.reduce((sum, m) => sum + (m.measured[p.key] ?? 0), 0);
  const kept = new Set(
    strip
      .filter((p) => total(p) > 0)
      .sort((a, b) => total(b) - total(a))
      .slice(0, MOST),
  );
  return strip.filter((p) => kept.has(p));
}

/** Specimens of a material that went through other tests than those shown. */
export function beside(item: Measured, shown: readonly Part[]): number {
  const keys = new Set(shown.map((p) => p.key));
  return Object.entries(item.measured).reduce((sum, [key, n]) => sum + (keys.has(key) ? 0 : n), 0);
}
