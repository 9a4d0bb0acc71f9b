import type { Schemas } from "../api/client";
import { boundSign, decimalsFor, interval, signed } from "../ui/format";
import type { Shown } from "../ui/units";

/** How far an arm is from the reference, as two short lines. */
export interface Apart {
  /** "+50 %", or in the unit where a percentage has no meaning. */
  size: string;
  /** Its interval and, of percentages, the factor. */
  range: string;
  /** By the usual scatter of the test: too few specimens for a verdict. */
  provisional: boolean;
}

const percent = (factor: number): string => {
  const p = 100 * (factor - 1);
  return signed(p, Math.abs(p) < 9.95 ? 1 : 0);
};
const end = (factor: number): string => percent(factor).replace("+", "");

/** A difference in percent and as a factor where that has a meaning, else in the unit shown. */
export function apartOf(a: Pick<Schemas["FindingArm"], "group" | "relative" | "provisional" | "verdict">, shown: Shown): Apart | null {
  const few = a.provisional;
  const relative = few?.relative ?? a.relative;
  const sign = a.group ? boundSign(a.group) : "";
  if (relative) {
    const ends = relative.ci95 ? `${end(relative.ci95[0])} … ${end(relative.ci95[1])}` : "";
    return { size: `${sign}${percent(relative.factor)} %`, range: [ends, `× ${relative.factor.toFixed(2)}`].filter(Boolean).join(" · "), provisional: few !== null };
  }
  const difference = few?.difference ?? a.verdict?.difference;
  const ci = few?.ci95 ?? a.verdict?.ci95 ?? null;
  if (difference === undefined) return null;
  const ends: [number, number] | null = ci && [ci[0] * shown.factor, ci[1] * shown.factor];
  return { size: `${sign}${signed(difference * shown.factor, decimalsFor(difference * shown.factor, ends))}`, range: ends ? interval(ends) : "", provisional: few !== null };
}
