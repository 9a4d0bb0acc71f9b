import { describe, expect, it } from "vitest";

import type { Schemas } from "../../api/client";
import { armsOf, factorOf, missingOf } from "./kinds";

const material = (id: string, product: string, colour: string) => ({ id, maker: "Hollin", product, colour }) as unknown as Schemas["MaterialView"];
const [amber, ivory, other] = [material("1", "Everyday", "amber"), material("2", "Everyday", "ivory"), material("3", "Hearth", "amber")];
const nothing = { runs: [], treatments: [], named: [] };

describe("the arms of a study", () => {
  it("are the materials, or each material in several ways", () => {
    expect(armsOf("material", [amber, other], nothing).map((a) => a.material.id)).toEqual(["1", "3"]);
    expect(armsOf("setting", [amber, other], { ...nothing, runs: [{ fan: 0 }, { fan: 50 }] }).map((a) => [a.material.id, a.settings["fan"]])).toEqual([
      ["1", 0],
      ["1", 50],
      ["3", 0],
      ["3", 50],
    ]);
    expect(armsOf("lot", [amber, other], { ...nothing, named: [{ id: "s", name: "E 1" }] }).map((a) => a.material.id), "a spool holds one material").toEqual(["1"]);
    expect(armsOf("rig", [amber], { ...nothing, named: [{ id: "r", name: "Jack" }] })[0]).toMatchObject({ rig: "r", spool: null, printer: null, words: "Jack" });
    expect(armsOf("lot", [amber], { ...nothing, named: [{ id: "s", name: "E 1" }] })[0]).toMatchObject({ spool: "s", rig: null });
    expect(armsOf("printer", [], { ...nothing, named: [{ id: "p", name: "One" }] })).toEqual([]);
  });
  it("of treatments begin with the control, each treatment once", () => {
    expect(armsOf("treatment", [amber], { ...nothing, treatments: [" annealed ", "", "annealed", "soaked"] }).map((a) => a.treatment)).toEqual(["", "annealed", "soaked"]);
    expect(armsOf("treatment", [amber], { ...nothing, treatments: [" "] })).toEqual([]);
  });
  it("of one product are its colours", () => {
    expect(factorOf("material", [amber, ivory])).toBe("colour");
    expect(factorOf("material", [amber, other])).toBe("material");
    expect(factorOf("material", [amber])).toBe("material");
    expect(factorOf("rig", [amber, ivory])).toBe("rig");
  });
});

describe("what a plan still needs", () => {
  const plan = { title: "t", kind: "rig", materials: 1, arms: 2, tests: 1 } as const;
  it("is told until it can be made", () => {
    expect(missingOf(plan)).toBe("");
    expect(missingOf({ ...plan, arms: 1 })).toBe("two rigs");
    expect(missingOf({ ...plan, kind: "treatment", arms: 0 })).toBe("a treatment");
    expect(missingOf({ ...plan, kind: "setting", arms: 1 })).toBe("");
    expect(missingOf({ title: " ", kind: "lot", materials: 0, arms: 0, tests: 0 })).toBe("a name, a material and a test");
    expect(missingOf({ title: "", kind: "material", materials: 1, arms: 1, tests: 1 })).toBe("a name");
    expect(missingOf({ ...plan, arms: 0, tests: 0 })).toBe("two rigs and a test");
  });
});
