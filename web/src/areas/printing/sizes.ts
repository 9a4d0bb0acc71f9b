import { readNumber } from "../../ui/number";

/** Lengths in which a shape is to differ, as name=value; null while one that is typed is no number. */
export function sizesTold(plain: Readonly<Record<string, number>>, typed: Readonly<Record<string, string>>): string[] | null {
  const told: string[] = [];
  for (const [name, text] of Object.entries(typed)) {
    const value = readNumber(text);
    if (value === undefined) return null;
    if (value !== null && value !== plain[name]) told.push(`${name}=${String(value)}`);
  }
  return told;
}

/** A number to be sunk, from 1 to 999; null for none, undefined where it is none. */
export function numberOf(typed: string): number | null | undefined {
  if (typed.trim() === "") return null;
  const value = Number(typed);
  return Number.isInteger(value) && value >= 1 && value <= 999 ? value : undefined;
}

/** What is added to the address of a file. */
export const sizeQuery = (told: readonly string[], number: number | null | undefined): string =>
  told.map((t) => `&size=${encodeURIComponent(t)}`).join("") + (number ? `&number=${String(number)}` : "");
