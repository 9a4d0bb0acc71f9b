import type { Schemas } from "../../api/client";

type Row = Schemas["PowerRow"];

/** What `wanted` of each can see, as a share of the mean; null for one of each. Beyond what is listed, by the root of their number. */
export function seenBy(row: Pick<Row, "seen">, wanted: number): number | null {
  if (wanted < 2) return null;
  const listed = row.seen[wanted - 2];
  if (listed !== undefined) return listed;
  const last = row.seen.at(-1);
  return last === undefined ? null : last * Math.sqrt((row.seen.length + 1) / wanted);
}

/** Whether that many are enough for what matters, in words. */
export function needOf(row: Pick<Row, "seen" | "margin" | "needed">, wanted: number): string {
  if (row.margin === null) return "what matters is told in the unit of the test, not as a share";
  if (row.needed === null) return "what matters would need more than 50 of each";
  return row.needed <= wanted ? "enough for what matters" : `what matters needs ${String(row.needed)} of each`;
}

type OnRack = Pick<Row, "places" | "days_each">;

/** How often the racks are filled for so many, and for how many days together; null where none are left on a rack. */
export function turnsOf(row: OnRack, specimens: number): { turns: number; days: number } | null {
  if (!row.places) return null;
  const turns = Math.ceil(specimens / row.places);
  return { turns, days: turns * row.days_each };
}

const PRINTING_A_DAY = 10;
const BENCH_A_DAY = 5;

/** Days until all is printed, pulled and off the racks: printing first, then the longer of bench and racks. */
export function calendarDays(printing: number, bench: number, racks: readonly number[]): number {
  return Math.ceil(printing / PRINTING_A_DAY + Math.max(bench / BENCH_A_DAY, ...racks, 0));
}

/** Hours to lay so many cm³ at a rate in mm³/s. */
export function printHours(volume: number, rate: number): number {
  return (volume * 1000) / rate / 3600;
}
