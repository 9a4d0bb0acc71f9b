import { expect, test } from "vitest";

import type { Schemas } from "../../api/client";
import { displayExample, needsOf } from "./channels";

const field = (name: string, channel: string | null, dimension: string, from_rig: string | null = null) => ({ name, channel, dimension, from_rig }) as Schemas["FieldView"];
const method = (kind: string, fields: Schemas["FieldView"][]) => ({ steps: [{ kind, fields }] }) as Schemas["MethodView"];

test("a rig needs each channel once, and the lengths that methods take from it", () => {
  const bending = method("timed loads", [field("width", "length", "length"), field("thickness", "length", "length"), field("span", null, "length", "span"), field("sections", null, "number", "sections"), field("deflection", "deflection", "length")]);
  const creep = method("rounds", [field("gap", "gap", "length")]);
  expect(needsOf([bending])).toEqual({ channels: [["length", "length"], ["deflection", "length"]], geometry: ["span"], places: false });
  expect(needsOf([bending, creep]).places).toBe(true);
});

test("implied decimals move the point", () => {
  expect(displayExample(2, 0.01)).toEqual({ shown: "2047", read: "20.47" });
  expect(displayExample(0, 0.1)).toEqual({ shown: "20.5", read: "20.5" });
  expect(displayExample(0, 1).shown).toBe("20");
});
