import { expect, test } from "vitest";

import { span } from "../../ui/format";
import { isNow, type Kept, type Member, nextPlace, shownValue, taskOf } from "./round";

const NONE: ReadonlySet<string> = new Set();
const due = (position: number, state: Member["due"][number]["state"]) => ({ position, state, at: "", opens: "", closes: "" });
const ON = { name: "load_on", begin: "", begun: "" };
const OFF = { name: "load_off", begin: "", begun: "" };
const member = (position: number, change: Partial<Member>): Member => ({
  run_id: `run${String(position)}`, specimen_id: null, code: "AAAA", position, test_id: "t", load: 24, stage: "loaded", field: "gap", words: "gap", before: "unloaded", along: [], along_read: [], before_words: "before", next_event: OFF,
  loaded_at: null, unloaded_at: null, due: [], unloaded: 20, course: [], recovery: [], outcomes: [], arm: null, ...change,
});
const kept = (runId: string, field: string, index = 0, about: string | null = null): Kept => ({ id: field, runId, code: "AAAA", field, index, about, raw: "1", at: "" });

test("a hung frame is read, then loaded, then it waits for the rack to know", () => {
  const hung = member(0, { stage: "hung", unloaded: null, next_event: ON });
  expect(taskOf(hung, [], NONE)).toMatchObject({ kind: "reading", field: "unloaded" });
  expect(taskOf(hung, [kept("run0", "unloaded")], NONE)).toEqual({ kind: "event", event: ON });
  expect(taskOf(hung, [], new Set(["run0-unloaded-0"]))).toEqual({ kind: "event", event: ON });
  expect(taskOf(hung, [kept("run0", "unloaded"), kept("run0", "load_on")], NONE)).toEqual({ kind: "wait" });
  expect(taskOf(hung, [kept("another", "unloaded")], NONE)).toMatchObject({ kind: "reading" });
});

test("missed readings are passed over; the last one is followed by unloading, recovery by the end", () => {
  const loaded = member(0, { due: [due(0, "read"), due(1, "missed"), due(2, "late"), due(3, "ahead")] });
  expect(taskOf(loaded, [], NONE)).toMatchObject({ kind: "reading", index: 2 });
  expect(taskOf(loaded, [kept("run0", "gap", 2)], NONE)).toMatchObject({ kind: "reading", index: 3 });
  expect(taskOf(member(0, { due: [due(0, "read")] }), [], NONE)).toEqual({ kind: "event", event: OFF });
  expect(taskOf(member(0, { due: [due(0, "read")] }), [kept("run0", "load_off")], NONE)).toEqual({ kind: "wait" });
  expect(taskOf(member(0, { stage: "recovering", field: "recovery", next_event: null, due: [due(0, "read"), due(1, "missed")] }), [], NONE)).toEqual({ kind: "finish" });
});

test("the walk goes round once, over what has come near", () => {
  const members = [member(0, { due: [due(0, "due"), due(1, "ahead")] }), member(2, { due: [due(0, "ahead")] }), member(5, { due: [due(0, "late"), due(1, "ahead")] })];
  expect(nextPlace(members, [], NONE, 0)).toBe(5);
  expect(nextPlace(members, [], NONE, 5)).toBe(0);
  expect(nextPlace(members, [kept("run0", "gap"), kept("run5", "gap")], NONE, 5)).toBeNull();
  expect(nextPlace(members, [], new Set(["run5-gap-0"]), 0)).toBe(0);
  const [first] = members;
  expect(first && isNow(first, taskOf(first, [], NONE), new Set(["run0-gap-0"]))).toBe(false);
});

test("digits alone carry the implied decimals; words are no number", () => {
  expect(shownValue("2118", 2)).toBe(21.18);
  expect(shownValue("21,18", 2)).toBe(21.18);
  expect(shownValue("21.", 2)).toBe(21);
  expect(shownValue("2a", 2)).toBeNull();
  expect([span(60), span(360), span(36000), span(168 * 3600), span(30 * 86400)]).toEqual(["60 s", "6 min", "10 h", "168 h", "30 d"]);
});

test("sizes and grades are asked for at the visit, each once, by each person", () => {
  const one = (field: string, about: string | null, before = false) => ({ field, label: field, about, unit: "mm", decimals: 0, grades: [], before });
  const along = [one("sizes_before", "length", true), one("sizes", "length"), one("looks", null)];
  const hung = member(0, { stage: "hung", unloaded: 20, next_event: ON, along });
  expect(taskOf(hung, [], NONE, "Ilse")).toMatchObject({ field: "sizes_before", about: "length", index: 0 });
  expect(taskOf(hung, [kept("run0", "sizes_before", 0, "length")], NONE, "Ilse")).toEqual({ kind: "event", event: ON });
  const loaded = member(0, { along, due: [due(0, "read"), due(1, "due"), due(2, "ahead")] });
  // before the main reading of a visit nothing else is asked
  expect(taskOf(loaded, [], NONE, "Ilse")).toMatchObject({ field: "gap", index: 1, along: null });
  const weighed = [kept("run0", "gap", 1)];
  expect(taskOf(loaded, weighed, NONE, "Ilse")).toMatchObject({ field: "sizes", about: "length", index: 1, due: null });
  const measured = [...weighed, kept("run0", "sizes", 1, "length")];
  expect(taskOf(loaded, measured, NONE, "Ilse")).toMatchObject({ field: "looks", about: "Ilse", index: 1 });
  expect(taskOf(loaded, measured, new Set(["run0-looks-1-Ilse"]), "Ilse")).toMatchObject({ field: "gap", index: 2 });
  const graded = [...measured, kept("run0", "looks", 1, "Ilse")];
  expect(taskOf(loaded, graded, NONE, "Ilse")).toMatchObject({ field: "gap", index: 2 });
  expect(taskOf(loaded, graded, NONE, "Tomas")).toMatchObject({ field: "looks", about: "Tomas" });
  // while nobody has said who is at the place, nothing is graded
  expect(taskOf(loaded, measured, NONE, "")).toMatchObject({ field: "gap", index: 2 });
  // after a reload the server tells what was read, and the window that is still open which visit it is
  const open = { ...due(1, "read"), opens: "2026-11-27T08:00:00Z", closes: "2026-11-27T20:00:00Z" };
  const again = member(0, { along, due: [due(0, "read"), open, due(2, "ahead")], along_read: [{ field: "sizes", about: "length", position: 1 }] });
  expect(taskOf(again, [], NONE, "Ilse", Date.parse("2026-11-27T12:00:00Z"))).toMatchObject({ field: "looks", index: 1 });
  expect(taskOf(again, [], NONE, "Ilse", Date.parse("2026-11-27T21:00:00Z"))).toMatchObject({ field: "gap", index: 2 });
});
