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
