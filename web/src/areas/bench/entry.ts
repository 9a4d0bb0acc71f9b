import type { Schemas } from "../../api/client";
import { rowsOf } from "../../capture/ramp/rows";

/** When and under which load something was read or done. */
export interface Stamp {
  at: string;
  load?: number;
  ambient?: number;
}

export interface Curve {
  id: string;
  name: string;
  /** False while the server could not be reached: the file then travels with the entry. */
  onServer: boolean;
}

/** What stands in the fields for one specimen; kept as a draft until it is accepted. */
export interface Entry {
  /** As typed, by "field-position". */
  values: Record<string, string>;
  /** Instants of timed readings, and of events, by the same keys ("load_on-0"). */
  stamps: Record<string, Stamp>;
  outcome: string | null;
  place: number | null;
  curve: Curve | null;
  /** Questions that were answered: it stands as typed. */
  confirmed: string[];
}

export const emptyEntry = (): Entry => ({ values: {}, stamps: {}, outcome: null, place: null, curve: null, confirmed: [] });

/** Whether anything was entered that would be missed. */
export const started = (entry: Entry): boolean => Object.values(entry.values).some((v) => v.trim()) || Object.keys(entry.stamps).length > 0 || entry.curve !== null || entry.outcome !== null;

/** One place that a reading is typed into. */
export interface Slot {
  key: string;
  field: string;
  label: string;
  position: number;
  /** How many readings of its field are needed. */
  needed: number;
  /** The event that must have happened before. */
  after?: string;
  /** What of the specimen it is of. */
  about?: string;
  /** A recording stands for it. */
  byCurve?: boolean;
  /** A row of a log: an empty one ends it. */
  row?: number;
}

export const EVENTS: readonly string[] = ["load_on", "load_off", "exposed"];
type StepView = Schemas["StepView"];
type Protocol = Schemas["TestView"]["protocol"];

export const listOf = (protocol: Protocol, name: string | null): number[] => {
  const found = name === null ? undefined : protocol[name];
  return found === undefined ? [] : [found].flat().map(Number);
};

/** What the places of a method follow from: how the test is set, what its shape has, what the rig shows. */
export interface Setup {
  protocol: Protocol;
  features: readonly { name: string }[];
  channels: readonly string[];
}

/** The places of a method's steps, in the order they are typed. */
export function slotsOf(steps: readonly StepView[], setup: Setup, entry: Pick<Entry, "values">): Slot[] {
  return steps.flatMap((step, i) => ofStep(step, setup, entry).map((slot) => (step.kind === "ramp" || steps[i + 1]?.kind === "recording" ? { ...slot, byCurve: true } : slot)));
}

/** Keys of what a recording stands for. */
export const byCurve = (steps: readonly StepView[], setup: Setup, entry: Entry): string[] => (entry.curve ? slotsOf(steps, setup, entry).filter((s) => s.byCurve).map((s) => s.key) : []);

function ofStep(step: StepView, setup: Setup, entry: Pick<Entry, "values">): Slot[] {
  switch (step.kind) {
    case "recording":
      return [];
    case "timed loads":
      return timedSlots(step, setup.protocol);
    case "features":
      return step.fields.flatMap((f) => setup.features.map((feature, position) => ({ ...slotAt(f, position), label: feature.name, needed: 1, about: feature.name })));
    case "swing":
      return swingSlots(step, setup.channels);
    case "ramp":
      return rampSlots(step, entry);
    default:
      return step.fields.flatMap(plainSlots);
  }
}

/** What is still to be typed: not the peak of a recording, and nothing under weights that it did not live to see. */
export function wanted(slots: readonly Slot[], entry: Entry): Slot[] {
  return slots.filter((s) => !(entry.curve && s.byCurve) && !(entry.outcome !== null && s.after !== undefined && entry.stamps[s.after] === undefined));
}

const slotAt = (field: Schemas["FieldView"], position: number): Slot => ({ key: `${field.name}-${position}`, field: field.name, label: field.label, position, needed: 0 });

/** Of the ways to read a swing, those that the rig shows; one of them is enough. */
function swingSlots(step: StepView, channels: readonly string[]): Slot[] {
  const readable = step.fields.filter((f) => f.from_rig === null);
  const own = readable.filter((f) => f.channel !== null && channels.includes(f.channel));
  return (own.length ? own : readable).map((f) => ({ ...slotAt(f, 0), needed: own.length === 1 ? 1 : 0 }));
}

/** What was seen by eye, then the log row by row, with an empty row at its end. */
function rampSlots(step: StepView, entry: Pick<Entry, "values">): Slot[] {
  const pair = step.fields.slice(-2);
  const rows = rowsOf(entry, ...pair.map((f) => f.name));
  return [...step.fields.slice(0, -2).flatMap(plainSlots), ...Array.from({ length: rows }, (_, i) => pair.map((f) => ({ ...slotAt(f, i), row: i }))).flat()];
}

function plainSlots(field: Schemas["FieldView"]): Slot[] {
  const count = field.from_rig !== null ? 0 : field.usual;
  return Array.from({ length: count }, (_, position) => ({ key: `${field.name}-${position}`, field: field.name, label: field.label, position, needed: Math.min(field.needed, count) }));
}

function timedSlots(step: StepView, protocol: Protocol): Slot[] {
  const times = listOf(protocol, step.times);
  return step.fields.flatMap((field) => {
    if (!field.by_load) return plainSlots(field);
    return listOf(protocol, step.ladder).flatMap((_, i) =>
      times.map((_, j) => {
        const position = i * times.length + j;
        return { key: `${field.name}-${position}`, field: field.name, label: field.label, position, needed: 1, after: `${field.counts_from ?? ""}-${i}` };
      }),
    );
  });
}

export type Next = { focus: string } | { press: string } | { choose: true } | { accept: true };

const filled = (entry: Entry, key: string) => (entry.values[key] ?? "").trim() !== "";
const enough = (slots: readonly Slot[], entry: Entry, slot: Slot) => slots.filter((s) => s.field === slot.field && filled(entry, s.key)).length >= slot.needed;

/**
 * Where Enter leads: to the next empty place, past the readings that are usual but not needed once Enter is
 * pressed on an empty one, back to what is still needed, and at the end to accepting; `toChoose`: not before
 * it is said how it ended.
 */
export function nextOf(slots: readonly Slot[], entry: Entry, active: string | null, locked: ReadonlySet<string>, toChoose = false): Next {
  const open = slots.filter((s) => !locked.has(s.key));
  const at = open.findIndex((s) => s.key === active);
  const here = open[at];
  const ahead = open.slice(at + 1);
  const passing = here !== undefined && !filled(entry, here.key) && enough(slots, entry, here);
  const candidates = passing ? ahead.filter((s) => (here.row !== undefined ? s.row === undefined : s.field !== here.field || s.about !== undefined)) : ahead;
  // at the start the cursor waits at the first field that nothing was read of, needed or only usual
  const next = candidates.find((s) => !filled(entry, s.key) && (at >= 0 || !enough(slots, entry, s) || !slots.some((o) => o.field === s.field && filled(entry, o.key))));
  const missing = open.find((s) => !filled(entry, s.key) && !enough(slots, entry, s));
  const found = next ?? missing;
  if (!found) return toChoose && entry.outcome === null ? { choose: true } : { accept: true };
  return found.after !== undefined && entry.stamps[found.after] === undefined ? { press: found.after } : { focus: found.key };
}

/** The first field in their order that is empty and open; one that waits for an event before it is not. */
export function firstEmpty(slots: readonly Slot[], entry: Entry, locked: ReadonlySet<string>): string | null {
  const empty = slots.find((s) => !locked.has(s.key) && !filled(entry, s.key) && (s.after === undefined || entry.stamps[s.after] !== undefined));
  return empty?.key ?? null;
}

/** What Enter does next, in words; null where it accepts. */
export function nextWords(next: Next, slots: readonly Slot[], active: string | null): string | null {
  if ("accept" in next) return null;
  if ("choose" in next) return "Say how it ended";
  if ("press" in next) return "Next weight";
  const to = slots.find((s) => s.key === next.focus);
  const here = slots.find((s) => s.key === active);
  if (!to) return "Next field";
  const same = slots.filter((s) => s.field === to.field).length;
  const words = to.about ?? (same > 1 ? `${to.label} ${String(to.position + 1)}` : to.label);
  return here && to.position <= here.position && to.field === here.field ? `Back to ${words}` : `Next: ${words}`;
}

/** Whether all that is needed has been entered. */
export function complete(slots: readonly Slot[], entry: Entry): boolean {
  return slots.every((s) => enough(slots, entry, s));
}

/** The readings and events of an entry, as the server takes them. */
export function readingsOf(entry: Entry, now: string, slots: readonly Slot[], leave: ReadonlySet<string> = new Set()): (Omit<Schemas["NewReading"], "id"> & { key: string })[] {
  const keys = [...Object.keys(entry.stamps).filter((k) => EVENTS.includes(k.slice(0, k.lastIndexOf("-")))), ...Object.keys(entry.values).filter((k) => filled(entry, k))];
  const about = new Map(slots.map((s) => [s.key, s.about ?? null]));
  return keys
    .filter((key) => !leave.has(key))
    .map((key) => {
      const cut = key.lastIndexOf("-");
      const stamp = entry.stamps[key];
      return {
        key,
        field: key.slice(0, cut),
        position: Number(key.slice(cut + 1)),
        raw: entry.values[key] ?? "",
        happened_at: stamp?.at ?? now,
        ambient_c: stamp?.ambient ?? null,
        load: stamp?.load ?? null,
        after: null,
        about: about.get(key) ?? null,
      };
    });
}
