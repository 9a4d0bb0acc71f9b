import { expect, test } from "vitest";

import { span } from "../../ui/format";
import { isNow, type Kept, type Member, nextPlace, shownValue, taskOf } from "./round";

const NONE: ReadonlySet<string> = new Set();
const due = (position: number, state: Member["due"][number]["state"]) => ({ position, state, at: "", opens: "", closes: "" });
const ON = { name: "load_on", begin: "", begun: "" };
const OFF = { name: "load_off", begin: "", begun: "" };
const member = (position: number, change: Partial<Member>): Member => ({
  run_id: `run${String(position)}`, specimen_id: null, code: "AAAA", position, test_id: "t", load: 24, stage: "loaded", field: "gap", words: "gap", before: "unloaded", before_words: "before", next_event: OFF,
  loaded_at: null, unloaded_at: null, due: [], unloaded: 20, course: [], recovery: [], outcomes: [], arm: null, ...change,
});
const kept = (runId: string, field: string, index = 0): Kept => ({ id: field, runId, code: "AAAA", field, index, raw: "1", at: "" });

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
