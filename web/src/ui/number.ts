/** A number typed with comma or point; null for an empty field, undefined for what is no number. */
export function readNumber(text: string): number | null | undefined {
  const trimmed = text.trim();
  if (!trimmed) return null;
  // "1,234" is 1.234: one mark only, thousands are not parted
  if (!/^[+-]?(\d+([.,]\d*)?|[.,]\d+)$/.test(trimmed)) return undefined;
  return Number(trimmed.replace(",", "."));
}

/** As a person would type it. */
export function typed(value: number | null | undefined): string {
  return value === null || value === undefined ? "" : String(Number(value.toPrecision(10)));
}

export type Rectangle = [number, number, number, number];

/** Rectangles as typed, each four numbers apart by blanks, the rectangles apart by semicolons; null where one is not. */
export function readRectangles(text: string): Rectangle[] | null {
  const found: Rectangle[] = [];
  for (const part of text.split(";").filter((p) => p.trim())) {
    const [a, b, c, d, ...more] = part.trim().split(/\s+/).map((word) => Number(word.replace(",", ".")));
    if (a === undefined || b === undefined || c === undefined || d === undefined || more.length || ![a, b, c, d].every((v) => Number.isFinite(v) && v >= 0)) return null;
    found.push([a, b, c, d]);
  }
  return found;
}

export const typedRectangles = (all: readonly (readonly number[])[]): string => all.map((r) => r.join(" ")).join("; ");

/** What a number may be. */
export interface Between {
  min?: number | undefined;
  max?: number | undefined;
  whole?: boolean | undefined;
}

/** A number as typed, within limits; null for an empty field, undefined for what is no number or lies beyond them. */
export function readBetween(text: string, { min = -Infinity, max = Infinity, whole = false }: Between): number | null | undefined {
  const value = readNumber(text);
  if (value === null || value === undefined) return value;
  return value < min || value > max || (whole && !Number.isInteger(value)) ? undefined : value;
}

/** What is wrong with a number as typed, in words, with what was likely meant; null where nothing is. */
export function problemOf(text: string, between: Between): string | null {
  if (readBetween(text, between) !== undefined) return null;
  const { min, max, whole } = between;
  const value = readNumber(text);
  if (value === undefined || value === null) return "a number is needed here";
  const limits = min === undefined ? `at most ${typed(max)}` : max === undefined ? `${typed(min)} or more` : `from ${typed(min)} to ${typed(max)}`;
  // a point that was lost, or typed where there is none
  const likely = [10, 0.1, 100, 0.01].map((factor) => Number((value * factor).toPrecision(12))).find((v) => readBetween(typed(v), between) !== undefined);
  const words = whole && !Number.isInteger(value) ? `a whole number, ${limits}` : limits;
  return likely === undefined || (min === undefined && max === undefined) ? words : `${words}: did you mean ${typed(likely)}?`;
}
