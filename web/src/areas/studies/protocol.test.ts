import { expect, test } from "vitest";

import type { Schemas } from "../../api/client";
import { delivered, protocolOf, readSetting, setWords, typedUnit } from "./protocol";

const setting = (more: Partial<Schemas["ProtocolSetting"]>): Schemas["ProtocolSetting"] => ({ name: "s", label: "s", dimension: "force", base: "N", kind: "number", default: 1, choices: {}, ...more });
const ladder = setting({ name: "ladder", label: "weights", kind: "numbers", default: [20, 40] });
const due = setting({ name: "due", label: "weighed after", dimension: "time", base: "s", kind: "numbers", default: [86400, 28 * 86400] });
const horizon = setting({ name: "horizon", dimension: "time", base: "s", default: 360000 });
const held = setting({ name: "held", label: "one end held down", dimension: "number", base: "1", kind: "yes or no", default: 0 });

test("long times are typed in hours or days and kept in seconds", () => {
  expect([typedUnit(due).unit, typedUnit(horizon).unit, typedUnit(setting({ dimension: "time", base: "s", default: 80 })).unit, typedUnit(held).unit]).toEqual(["days", "h", "s", ""]);
  expect([delivered(due), delivered(horizon), delivered(ladder)]).toEqual(["1  28", "100", "20  40"]);
  expect(readSetting(due, "1; 3,5 7")).toEqual([86400, 3.5 * 86400, 7 * 86400]);
  expect(readSetting(horizon, "50")).toBe(180000);
});

test("what is no ladder is told, and nothing typed is as delivered", () => {
  expect(readSetting(ladder, "40 20")).toBeUndefined();
  expect(readSetting(ladder, "0 20")).toBeUndefined();
  expect(readSetting(ladder, "ten")).toBeUndefined();
  expect(readSetting(horizon, "10 20")).toBeUndefined();
  expect(readSetting(ladder, " ")).toBeNull();
});

test("only what is set otherwise goes into the protocol, each to its own method", () => {
  const method = { name: "stepped-bending", settings: [ladder, horizon, held] };
  const typed = { "stepped-bending": { ladder: "5 10", horizon: "", held: "1" }, warp: { ladder: "1" } };
  expect(protocolOf(method, typed)).toEqual({ ladder: [5, 10], held: 1 });
  expect(setWords(method, typed)).toBe("weights 5 10 N · one end held down");
  expect(protocolOf({ ...method, name: "creep" }, typed)).toEqual({});
});

test("words are chosen and said by what they are called", () => {
  const traits = setting({ name: "traits", dimension: "grade", base: "grade", kind: "words", default: ["surface", "sheen"], choices: { surface: "surface finish", sheen: "sheen" } });
  expect(delivered(traits)).toBe("surface sheen");
  expect(protocolOf({ name: "graded", settings: [traits] }, { graded: { traits: "sheen surface" } })).toEqual({ traits: ["sheen", "surface"] });
  expect(setWords({ name: "graded", settings: [traits] }, { graded: { traits: "surface" } })).toBe("surface finish");
});

test("a choice is one of its names, times from a minute to days are typed in minutes, and what is not recorded is said so", () => {
  const scale = { name: "scale", label: "durometer", dimension: "number", base: "1", kind: "choice" as const, default: "D", choices: { D: "type D", A: "type A" } };
  expect([readSetting(scale, "A"), readSetting(scale, "C"), readSetting(scale, "")]).toEqual(["A", undefined, null]);
  expect(setWords({ name: "hardness", settings: [scale] }, { hardness: { scale: "A" } })).toBe("type A");
  const due = { name: "due", label: "read", dimension: "time", base: "s", kind: "numbers" as const, default: [60, 3600, 360000], choices: {} };
  expect([typedUnit(due).unit, delivered(due), readSetting(due, "1 10 60")]).toEqual(["min", "1  60  6000", [60, 600, 3600]]);
  const volume = { name: "volume", label: "volume", dimension: "number", base: "1", kind: "number" as const, default: null, choices: {} };
  expect([delivered(volume), readSetting(volume, "400")]).toEqual(["not recorded", 400]);
});
