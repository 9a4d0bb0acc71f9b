import { expect, test } from "vitest";

import type { Schemas } from "../../api/client";
import { complete, emptyEntry, type Entry, firstEmpty, nextOf, nextWords, readingsOf, type Setup, slotsOf, wanted } from "./entry";
import { counted } from "./counted";

const field = (name: string, needed: number, usual: number, more: Partial<Schemas["FieldView"]> = {}): Schemas["FieldView"] => ({
  name, label: name, dimension: "length", base: "mm", needed, usual, sign: "above zero", channel: null, nominal: null, counts_from: null, by_load: false, from_rig: null, from_print: null, by_about: false, yes_no: false, ...more,
});
const step = (kind: Schemas["StepView"]["kind"], fields: Schemas["FieldView"][], more: Partial<Schemas["StepView"]> = {}): Schemas["StepView"] => ({
  kind, name: kind, label: kind, optional: false, fields, channels: [], ladder: null, times: null, due: null, ...more,
});
const setup = (more: Partial<Setup> = {}): Setup => ({ protocol: {}, features: [], channels: [], ...more });
const pull = slotsOf([step("section", [field("width", 1, 3), field("thickness", 1, 3)]), step("peak", [field("peak_force", 0, 1)])], setup(), emptyEntry());
const bend = slotsOf([step("timed loads", [field("deflection", 1, 4, { by_load: true, counts_from: "load_on" }), field("residual", 0, 1)], { ladder: "ladder", times: "times" })], setup({ protocol: { ladder: [20, 40], times: [5, 20] } }), emptyEntry());
const typed = (values: Record<string, string>, more: Partial<Entry> = {}): Entry => ({ ...emptyEntry(), values, ...more });
const none = new Set<string>();

test("Enter goes through the readings one by one", () => {
  expect(nextOf(pull, typed({ "width-0": "4" }), "width-0", none)).toEqual({ focus: "width-1" });
});

test("Enter on an empty reading that is not needed goes on to the next field", () => {
  expect(nextOf(pull, typed({ "width-0": "4" }), "width-1", none)).toEqual({ focus: "thickness-0" });
  expect(nextOf(pull, typed({}), "width-0", none)).toEqual({ focus: "width-1" });
});

test("at the start the cursor waits at what was not read yet, needed or only usual", () => {
  const shear = slotsOf([step("section", [field("width", 0, 3), field("thickness", 0, 3)]), step("peak", [field("peak_force", 1, 1)])], setup(), emptyEntry());
  expect(nextOf(shear, typed({}), null, none)).toEqual({ focus: "width-0" });
  expect(nextOf(shear, typed({ "width-0": "5" }), null, none)).toEqual({ focus: "thickness-0" });
  expect(nextOf(shear, typed({ "width-0": "5", "thickness-0": "4" }), null, none)).toEqual({ focus: "peak_force-0" });
});

test("what it did not live to see is not asked for", () => {
  const broken = typed({ "deflection-0": "0.4", "deflection-1": "0.5" }, { stamps: { "load_on-0": { at: "" } }, outcome: "broke" });
  expect(wanted(bend, broken).map((s) => s.key)).toEqual(["deflection-0", "deflection-1", "residual-0"]);
  expect(wanted(bend, { ...broken, outcome: null })).toHaveLength(bend.length);
});

test("what is needed is asked for before anything is accepted, and nothing more", () => {
  const gap = typed({ "width-0": "4", "peak_force-0": "9" });
  expect(nextOf(pull, gap, "peak_force-0", none)).toEqual({ focus: "thickness-0" });
  expect(complete(pull, gap)).toBe(false);
  const enough = typed({ "width-0": "4", "thickness-0": "4", "peak_force-0": "9" });
  expect(nextOf(pull, enough, "peak_force-0", none)).toEqual({ accept: true });
  expect(complete(pull, enough)).toBe(true);
});

test("places measured before are passed over", () => {
  const locked = new Set(["width-0", "width-1", "width-2", "thickness-0", "thickness-1", "thickness-2"]);
  const before = typed({ "width-0": "4", "thickness-0": "4" });
  expect(nextOf(pull, before, "peak_force-0", locked)).toEqual({ accept: true });
});

test("a weight is put on before its readings are taken", () => {
  expect(bend.map((s) => s.after)).toEqual(["load_on-0", "load_on-0", "load_on-1", "load_on-1", undefined]);
  expect(nextOf(bend, typed({}), null, none)).toEqual({ press: "load_on-0" });
  const on = typed({ "deflection-0": ".6", "deflection-1": ".61" }, { stamps: { "load_on-0": { at: "2026-01-01T00:00:00Z", load: 20 } } });
  expect(nextOf(bend, on, "deflection-1", none)).toEqual({ press: "load_on-1" });
});

test("readings carry their instant and load, events too", () => {
  const entry = typed({ "deflection-0": "0,61" }, { stamps: { "load_on-0": { at: "2026-01-01T00:00:00Z", load: 20 }, "deflection-0": { at: "2026-01-01T00:00:05Z", load: 20 } } });
  expect(readingsOf(entry, "now", []).map((r) => [r.field, r.position, r.raw, r.happened_at, r.load])).toEqual([
    ["load_on", 0, "", "2026-01-01T00:00:00Z", 20],
    ["deflection", 0, "0,61", "2026-01-01T00:00:05Z", 20],
  ]);
  expect(readingsOf(typed({ "width-2": "4", "width-1": " " }), "now", [])).toHaveLength(1);
});

test("after a reload the cursor waits at the first empty field, in order, past what was measured before", () => {
  expect(firstEmpty(pull, typed({ "width-0": "4", "thickness-0": "4" }), none)).toBe("width-1");
  expect(firstEmpty(pull, typed({ "width-0": "4", "width-1": " ", "width-2": "4" }), none)).toBe("width-1");
  expect(firstEmpty(pull, typed({}), new Set(["width-0", "width-1", "width-2"]))).toBe("thickness-0");
  const all = Object.fromEntries(pull.map((s) => [s.key, "4"]));
  expect(firstEmpty(pull, typed(all), none)).toBeNull();
  // a reading under a weight that does not hang yet is not waited for
  expect(firstEmpty(bend, typed({}, { stamps: { "load_on-0": { at: "" } } }), none)).toBe("deflection-0");
  expect(firstEmpty(bend, typed({}), none)).toBe("residual-0");
});

test("the button says where Enter leads", () => {
  const words = (entry: Entry, active: string | null) => nextWords(nextOf(pull, entry, active, none), pull, active);
  expect(words(typed({ "width-0": "4" }), "width-0")).toBe("Next: width 2");
  expect(words(typed({ "width-0": "4" }), "width-1")).toBe("Next: thickness 1");
  expect(words(typed({ "width-0": "4", "peak_force-0": "9" }), "peak_force-0")).toBe("Next: thickness 1");
  expect(words(typed({ "width-0": "4", "thickness-0": "4", "peak_force-0": "9" }), "peak_force-0")).toBeNull();
  expect(nextWords({ choose: true }, pull, null)).toBe("Say how it ended");
});

test("what was left out is in neither count", () => {
  expect(counted(["counts", "at_least", "waiting", "measured", "left_out", "left_out"])).toEqual({ tested: 2, total: 4, leftOut: 2 });
});
