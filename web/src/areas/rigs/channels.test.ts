import { expect, test } from "vitest";

import type { Schemas } from "../../api/client";
import { displayExample, needsOf } from "./channels";

const field = (name: string, channel: string | null, dimension: string, from_rig: string | null = null, more: object = {}) => ({ name, label: name, channel, dimension, from_rig, base: "mm", needed: name === "span" ? 1 : 0, sign: "above zero", ...more }) as Schemas["FieldView"];
const method = (kind: string, fields: Schemas["FieldView"][]) => ({ steps: [{ kind, fields }] }) as Schemas["MethodView"];

test("a rig needs each channel once, and the lengths that methods take from it", () => {
  const bending = method("timed loads", [field("width", "length", "length"), field("thickness", "length", "length"), field("span", null, "length", "span"), field("sections", null, "number", "sections"), field("deflection", "deflection", "length")]);
  const creep = method("rounds", [field("gap", "gap", "length")]);
  const fact = (name: string, more: object) => ({ name, label: name, unit: "mm", needed: false, flag: false, ...more });
  expect(needsOf([bending])).toEqual({ channels: [["length", "length"], ["deflection", "length"]], facts: [fact("span", { needed: true }), fact("sections", { unit: "" })], places: false });
  expect(needsOf([bending, creep]).places).toBe(true);
});

test("facts have the unit of their own dimension, once each, and a number that may be nothing is a yes or no", () => {
  const swing = method("swing", [field("hammer_mass", null, "hammer mass", "hammer_mass", { base: "kg" }), field("loss_subtracted", null, "number", "loss_subtracted", { sign: "zero allowed" })]);
  const again = method("swing", [field("mass", null, "hammer mass", "hammer_mass", { base: "kg" })]);
  expect(needsOf([swing, again]).facts.map((f) => [f.name, f.unit, f.flag])).toEqual([["hammer_mass", "kg", false], ["loss_subtracted", "", true]]);
});

test("implied decimals move the point", () => {
  expect(displayExample(2, 0.01)).toEqual({ shown: "2047", read: "20.47" });
  expect(displayExample(0, 0.1)).toEqual({ shown: "20.5", read: "20.5" });
  expect(displayExample(0, 1).shown).toBe("20");
});
