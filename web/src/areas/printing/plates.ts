import type { Schemas } from "../../api/client";
import { amount, durationWords } from "../../ui/format";

/** What several plates take together. */
export function takes(plates: readonly Pick<Schemas["PlateView"], "mass" | "minutes">[]): string {
  const minutes = plates.reduce((sum, p) => sum + p.minutes, 0);
  const mass = plates.every((p) => p.mass !== null) ? plates.reduce((sum, p) => sum + (p.mass ?? 0), 0) : null;
  return [mass !== null && amount(mass, "g", 0), durationWords(minutes)].filter(Boolean).join(", ");
}

/** Minutes as typed, plain or as h:mm; null where nothing is typed, undefined where it is neither. */
export function minutesOf(typed: string): number | null | undefined {
  const text = typed.trim().replace(",", ".");
  if (text === "") return null;
  const clock = /^(\d{1,4}):([0-5]\d)$/.exec(text);
  if (clock) return Number(clock[1]) * 60 + Number(clock[2]) || undefined;
  const value = Number(text);
  return Number.isFinite(value) && value > 0 && value <= 1e5 ? value : undefined;
}

/** "3 × bar, flat; 2 × shear bar, flat". */
export function lyingOn(layout: Pick<Schemas["PlateLayout"], "pieces">): string {
  const kinds = new Map<string, number>();
  for (const { kind } of layout.pieces) kinds.set(kind, (kinds.get(kind) ?? 0) + 1);
  return [...kinds].map(([kind, n]) => `${String(n)} × ${kind}`).join("; ");
}
