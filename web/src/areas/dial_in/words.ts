import type { Schemas } from "../../api/client";
import { durationWords, setting, short } from "../../ui/format";
import { shownUnit } from "../../ui/units";

export type Difference = Schemas["DifferenceView"];
export type Trial = Schemas["TrialView"];
export type SetView = Schemas["SetView"];

/** A value as a person reads it, in the unit shown. */
export function valueWords(value: number | boolean | string | null | undefined, unit: string): string {
  if (value === null || value === undefined) return "–";
  if (typeof value === "boolean") return value ? "yes" : "no";
  return typeof value === "number" ? (unit ? setting(value, unit) : short(value)) : value;
}

/** A setting with what else it says: how it moves over layers, where it differs. */
export function setWords(held: SetView | null | undefined, unit: string): string {
  if (!held) return "not said";
  const moves = held.schedule ? `, ${held.schedule.step > 0 ? "+" : "−"}${short(Math.abs(held.schedule.step))} every ${String(held.schedule.every)} layers to ${valueWords(held.schedule.end, unit)}` : "";
  const regions = held.regions?.map((r) => `; ${r.where}: ${valueWords(r.value, unit)}`).join("") ?? "";
  return valueWords(held.value, unit) + moves + regions;
}

/** "fan 20 → 40 %" */
export function chip(d: Difference): string {
  const numbers = typeof d.before?.value === "number" && typeof d.after?.value === "number" && !d.before.schedule && !d.after.schedule;
  if (numbers && d.unit) {
    const shown = shownUnit(d.unit);
    // where it breaks, the new value and its unit stay together
    return `${d.label} ${short(shown.at(d.before?.value as number))} →\u00a0${short(shown.at(d.after?.value as number))}\u00a0${shown.unit}`;
  }
  if (!d.before) return `${d.label} ${setWords(d.after, d.unit)}`;
  if (!d.after) return `${d.label} no longer said`;
  return `${d.label} ${setWords(d.before, d.unit)} → ${setWords(d.after, d.unit)}`;
}

/** "fan +20 %": a change by its size; words as they are. */
export function changeWords(d: Difference): string {
  if (d.step === null) return chip(d);
  const shown = shownUnit(d.unit);
  return `${d.label} ${d.step > 0 ? "+" : "−"}${short(Math.abs(d.step * shown.factor))} ${shown.unit}`.trim();
}

export const OUTCOMES = [
  { value: "good", label: "good", key: "g" },
  { value: "poor", label: "poor", key: "p" },
  { value: "failed", label: "failed", key: "f" },
  { value: "stopped", label: "stopped", key: "s" },
] as const;

export function outcomeWords(t: Trial): string {
  if (t.outcome === "planned") return "planned";
  if (t.outcome === "failed" || t.outcome === "stopped") {
    if (t.failed_band) return `${t.outcome} in band ${String(t.failed_band)}`;
    return t.failed_at === null ? t.outcome : `${t.outcome} at ${short(t.failed_at)} %`;
  }
  return t.outcome;
}

export function secondsWords(seconds: number): string {
  return seconds < 90 ? `${String(Math.round(seconds))} s` : durationWords(seconds / 60);
}

/** How many prints came out good, and what the count leaves out. */
export function printsGood(good: number, printed: number, controls: number): string {
  return `${String(good)} of ${String(printed)} prints good${controls ? `, ${String(controls)} control ${controls === 1 ? "print" : "prints"} not counted` : ""}`;
}

/** The grades of a trial with their traits, the lowest first; equal ones in the order of the traits. */
export function lowestFirst<T extends { name: string }>(grades: Readonly<Record<string, number>>, traits: readonly T[]): { trait: T; grade: number }[] {
  return traits.flatMap((trait) => (grades[trait.name] === undefined ? [] : [{ trait, grade: grades[trait.name] ?? 0 }])).sort((a, b) => a.grade - b.grade);
}
