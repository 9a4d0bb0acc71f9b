import { expect, test } from "vitest";

import { beginning, nameOf, renamed, samplesOf } from "./ownDraft";

test("a name for formulas is made of what something is called, and is its own", () => {
  expect(nameOf("Peel force, left", [])).toBe("peel_force_left");
  expect(nameOf("Höhe 2", [])).toBe("ho_he");
  expect(nameOf("width", ["width"])).toBe("width_b");
  expect(nameOf("width", ["width", "width_b"])).toBe("width_c");
  expect(nameOf("  ", [])).toBe("value");
});

test("a renamed input is renamed in formulas as a whole word, in samples and in bounds", () => {
  const draft = beginning();
  draft.definition.results[0]!.formula = "width_at_end + width / my_width";
  draft.definition.outcomes[1]!.results = ["joint_strength"];
  const found = renamed(draft, "width", "breadth");
  expect(found.definition.results[0]?.formula).toBe("width_at_end + breadth / my_width");
  expect(found.definition.inputs.map((i) => i.name)).toEqual(["greatest_load", "breadth", "overlap"]);
  expect(found.samples).toEqual({ greatest_load: "412", breadth: "10.02 10.05 9.98", overlap: "12" });
  expect(renamed(draft, "joint_strength", "bond").definition.outcomes?.[1]?.results).toEqual(["bond"]);
});

test("samples are parted by blanks or semicolons", () => {
  const draft = beginning();
  draft.samples["width"] = "10; 10,1  9.9";
  expect(samplesOf(draft)["width"]).toEqual(["10", "10,1", "9.9"]);
});
