import type { Schemas } from "../../api/client";

type Row = Schemas["PowerRow"];

/** The difference that so many of each detect, as a share of the mean; null for one of each, or fewer than batches. Beyond what is listed, as the last of those. */
export function detectableBy(row: Pick<Row, "detectable">, replicates: number): number | null {
  if (replicates < 2) return null;
  const listed = row.detectable[replicates - 2];
  return listed !== undefined ? listed : (row.detectable.at(-1) ?? null);
}

const percent = (share: number) => `${String(Math.round(share * 1000) / 10)} %`;

/** Whether that many are enough for the target difference, in words. */
export function needOf(row: Pick<Row, "target" | "needed">, replicates: number): string {
  if (row.target === null) return "the difference that matters is in the unit of the test, not a share: set a target";
  const target = percent(row.target);
  if (row.needed === null) return `${target} needs more than 50 of each in these batches`;
  return row.needed <= replicates ? `enough for ${target}` : `${target} needs ${String(row.needed)} of each`;
}

/** Other ways to detect the target: specimens of each by how many batches they are printed in. */
export function optionsOf(row: Pick<Row, "by_batches">, batches: number): string {
  const other = row.by_batches.filter((o) => o.batches > 1 && o.batches !== batches && o.needed !== null);
  return other.map((o) => `${String(o.needed)} in ${String(o.batches)} batches`).join(", ");
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
