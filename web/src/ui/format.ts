import { type Shown, shownUnit } from "./units";

/** Decimals that show two significant digits of a 95 % half-width; without one, three digits of the value. */
export function decimalsFor(value: number, ci: readonly [number, number] | null | undefined): number {
  const half = ci ? (ci[1] - ci[0]) / 2 : 0;
  const digits = half > 0 ? 1 - Math.floor(Math.log10(half)) : 2 - Math.floor(Math.log10(Math.abs(value) || 1));
  return Math.min(6, Math.max(0, digits));
}

export function fixed(value: number, decimals: number): string {
  const text = value.toFixed(decimals);
  return (/^-0(\.0*)?$/.test(text) ? text.slice(1) : text).replace("-", "−");
}

/** A value with as many digits as its interval carries. */
export function figure(value: number, ci?: readonly [number, number] | null): string {
  return fixed(value, decimalsFor(value, ci));
}

export function interval(ci: readonly [number, number]): string {
  const decimals = decimalsFor(ci[0], ci);
  return `${fixed(ci[0], decimals)} … ${fixed(ci[1], decimals)}`;
}

export function signed(value: number, decimals: number): string {
  return value > 0 ? `+${fixed(value, decimals)}` : fixed(value, decimals);
}

/** A number with its noun: "1 specimen", "2 specimens". */
export function count(n: number, noun: string, plural = `${noun}s`): string {
  return `${String(n)} ${n === 1 ? noun : plural}`;
}

/** Three significant digits, for axes and single readings. */
export function plain(value: number): string {
  if (value === 0) return "0";
  return fixed(value, Math.min(6, Math.max(0, 2 - Math.floor(Math.log10(Math.abs(value))))));
}

export function probability(p: number): string {
  if (p < 0.0001) return "< 0.0001";
  return p.toPrecision(2);
}

/** Decimals in the unit shown that tell as much as `decimals` do in the kept one. */
const finer = (shown: Shown, decimals: number): number => Math.max(0, decimals + Math.ceil(-Math.log10(shown.factor) - 1e-9));

/** A kept value in the unit shown, with as many decimals as tell as much as the given ones do in the kept unit: "985 g", "34.74 oz". */
export function amount(value: number, unit: string, decimals: number): string {
  return `${inShown(value, unit, decimals)} ${shownUnit(unit).unit}`;
}

/** A load in the unit shown, with three digits: what weights are known to. */
export function load(newton: number): string {
  const shown = shownUnit("N");
  return `${String(Number(shown.at(newton).toPrecision(3)))} ${shown.unit}`;
}

/** "40–80 mm/s", "at most 80 mm/s": a range that may be open at one end. */
export function spanWords(low: number | null, high: number | null, unit: string): string {
  if (low === null) return high === null ? "" : `at most ${setting(high, unit)}`;
  if (high === null) return `at least ${setting(low, unit)}`;
  return low === high ? setting(low, unit) : `${short(shownUnit(unit).at(low))}–${setting(high, unit)}`;
}

/** The number of `amount`, for columns and axes whose head names the unit. */
export function inShown(value: number, unit: string, decimals: number): string {
  const shown = shownUnit(unit);
  return fixed(shown.at(value), finer(shown, decimals));
}

/** The size of a difference in the unit shown: no zero point goes into it. */
export function difference(value: number, unit: string, decimals: number): string {
  const shown = shownUnit(unit);
  return `${fixed(value * shown.factor, finer(shown, decimals))} ${shown.unit}`;
}

/** A number that a person set, in the unit shown: "60 mm/s", "220 °C"; without digits nobody typed where it is shown as kept. */
export function setting(value: number, unit: string): string {
  const shown = shownUnit(unit);
  return `${short(shown.at(value))} ${shown.unit}`;
}

/** Round steps of an axis from low to high; at least two, since one alone tells no scale. */
export function ticks(low: number, high: number, about: number): number[] {
  const span = high - low || 1;
  const raw = span / Math.max(1, about);
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = [1, 2, 5, 10].map((m) => m * power).find((s) => s >= raw * 0.999) ?? 10 * power;
  const found: number[] = [];
  for (let t = Math.ceil(low / step - 1e-9) * step; t <= high + step * 1e-9; t += step) found.push(Math.abs(t) < step * 1e-9 ? 0 : t);
  return found.length < 2 && high > low ? ticks(low, high, 2 * about) : found;
}

export function tickLabel(value: number, all: readonly number[]): string {
  const [first, second] = all;
  if (first === undefined || second === undefined) return short(value);
  const step = Math.abs(second - first);
  return fixed(value, Math.max(0, -Math.floor(Math.log10(step) + 1e-9)));
}

const day = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short" });
const minute = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
const dayOfYear = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "numeric" });
/** A day, with its year where it is not this one. */
export const onDay = (iso: string) => (new Date(iso).getFullYear() === new Date().getFullYear() ? day : dayOfYear).format(new Date(iso));
export const atMinute = (iso: string) => minute.format(new Date(iso));
/** From one minute to another; the day once, where it is the same. */
export const fromToMinute = (from: Date, to: Date) => minute.formatRange(from, to);

/** "3 days ago" */
export function ago(iso: string, now = Date.now()): string {
  const days = Math.floor((now - new Date(iso).getTime()) / 86_400_000);
  if (days <= 0) return "today";
  return days === 1 ? "yesterday" : `${days} days ago`;
}

/** A number that a person set, without digits nobody typed. */
export function short(value: number): string {
  return String(Number(value.toPrecision(4))).replace("-", "−");
}

/** "3 h 20 min", "45 min"; from ten hours on whole ones. */
export function durationWords(minutes: number): string {
  const whole = Math.round(minutes);
  if (whole < 60) return `${String(whole)} min`;
  const [h, m] = [Math.floor(whole / 60), whole % 60];
  return m && h < 10 ? `${String(h)} h ${String(m)} min` : `${String(Math.round(whole / 60))} h`;
}

/** "2 h 5 min left", "12 min over" */
export function timeLeft(ms: number): string {
  const words = durationWords(Math.abs(ms) / 60_000);
  return ms >= 0 ? `${words} left` : `${words} over`;
}

/** The value of a field for a local date and time. */
export function localMinute(iso: string): string {
  const at = new Date(iso);
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}

/** "≥ " before a mean that some lower bounds went into, "≤ " for upper ones. */
export function boundSign(group: { at_least: number; at_most: number }): string {
  if (group.at_least && !group.at_most) return "≥ ";
  if (group.at_most && !group.at_least) return "≤ ";
  return "";
}

/** "1 min", "4 h", "7 d": a time after an event, in one unit. */
export function span(seconds: number): string {
  if (seconds < 90) return `${String(Math.round(seconds))} s`;
  if (seconds < 5400) return `${String(Math.round(seconds / 60))} min`;
  const hours = seconds / 3600;
  return hours < 200 ? `${String(Number(hours.toPrecision(3)))} h` : `${String(Math.round(hours / 24))} d`;
}

/** A label within a sentence: only its first letter is made small, so that proper names stay as they are. */
export const inText = (label: string): string => label.charAt(0).toLowerCase() + label.slice(1);

export const capital = (text: string): string => `${text[0]?.toUpperCase() ?? ""}${text.slice(1)}`;
