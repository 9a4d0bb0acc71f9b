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
  draft.definition.results[0]!.formula = "depth_at_end + depth / my_depth";
  draft.definition.outcomes[1]!.results = ["pull_out_strength"];
  const found = renamed(draft, "depth", "reach");
  expect(found.definition.results[0]?.formula).toBe("depth_at_end + reach / my_depth");
  expect(found.definition.inputs.map((i) => i.name)).toEqual(["greatest_load", "diameter", "reach"]);
  expect(found.samples).toEqual({ greatest_load: "412", diameter: "5.6", reach: "5.02 5.05 4.98" });
  expect(renamed(draft, "pull_out_strength", "bond").definition.outcomes?.[1]?.results).toEqual(["bond"]);
});

test("samples are parted by blanks or semicolons", () => {
  const draft = beginning();
  draft.samples["depth"] = "10; 10,1  9.9";
  expect(samplesOf(draft)["depth"]).toEqual(["10", "10,1", "9.9"]);
});
