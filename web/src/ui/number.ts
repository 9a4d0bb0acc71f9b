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
