import { describe, expect, it, test } from "vitest";

import type { Schemas } from "../../api/client";
import { changesOf, profileText, responsesOf } from "./across";
import { doubtWords, stateWords } from "../../ui/doubts";
import { remarksOf } from "./doubts";
import { ordered } from "./order";
import { verdictRows } from "./tables";

const arm = (id: string, polymer: string, filler: string | null) => ({ id, mark: id, treatment: "", differs: {}, material: { maker: "Hollin", product: id, colour: "amber", polymer, filler, filler_share: filler ? 15 : null } }) as unknown as Schemas["ArmView"];
const finding = (id: string, mean: number | null, more: Partial<Schemas["FindingArm"]> = {}, polymer = "PLA", filler: string | null = null) =>
  ({ arm: arm(id, polymer, filler), name: `Hollin ${id}`, group: mean === null ? null : { mean, n: 3 }, ratio: null, verdict: null, relative: null, provisional: null, dots: [], outlier: null, notes: [], ends: [], design_value: null, ...more }) as unknown as Schemas["FindingArm"];
const ids = (groups: ReturnType<typeof ordered>) => groups.map((g) => [g.heading, g.arms.map((a) => a.arm.id).join("")]);

test("arms come the best first, what is untested last, or as planned", () => {
  const arms = [finding("a", 2), finding("b", null), finding("c", 5), finding("d", 3)];
  expect(ids(ordered(arms, "value", "higher"))).toEqual([["", "cdab"]]);
  expect(ids(ordered(arms, "value", "lower"))).toEqual([["", "adcb"]]);
  expect(ids(ordered(arms, "plan", "higher"))).toEqual([["", "abcd"]]);
});

test("grouped arms stand under their polymer, filler or product line, each with its best first", () => {
  const arms = [finding("a", 2, {}, "PETG"), finding("b", 9), finding("c", 5, {}, "PETG", "glass fibre"), finding("d", 3)];
  expect(ids(ordered(arms, "polymer", "higher"))).toEqual([["PLA", "bd"], ["PETG", "ca"]]);
  expect(ids(ordered(arms, "filler", "higher")).map(([, own]) => own)).toEqual(["bda", "c"]);
  expect(ids(ordered(arms, "line", "higher"))).toHaveLength(4);
});

test("a note of several arms is one remark, and how large a difference certainly is none", () => {
  const verdict = { word: "better", notes: ["certainly above the difference that matters", "one print batch: valid for these prints"] } as unknown as Schemas["VerdictView"];
  const remarks = remarksOf({ arms: [finding("a", 1, { verdict }), finding("b", 2, { verdict, notes: ["2 of 3 are lower bounds"] })] } as unknown as Schemas["Findings"]);
  expect(remarks.map((r) => [r.text, r.arms])).toEqual([
    ["One print batch: valid for these prints", ["Hollin a", "Hollin b"]],
    ["2 of 3 are lower bounds", ["Hollin b"]],
  ]);
});

test("a doubt stands with its arm in its test until it is settled; one about a whole study stands with its arms in every test", () => {
  const doubt = (text: string, test_id: string | null, arm_ids: string[], state = "open") => ({ text, test_id, arm_ids, state }) as unknown as Schemas["DoubtView"];
  const doubts = [doubt("odd", "t", ["a"]), doubt("seen", "t", ["a"], "settled"), doubt("again", "t", ["a"], "retest"), doubt("wet", null, ["a"]), doubt("rig", "t", [])];
  expect(doubtWords(doubts, "a", "t")).toBe("odd; again; wet; rig");
  expect(doubtWords(doubts, "a", "u")).toBe("wet");
  expect(doubtWords(doubts, "b", "t")).toBe("rig");
  expect(stateWords(doubts)).toBe("3 open, 1 being tested again, 1 settled");
  expect(stateWords([])).toBe("nothing");
});

test("the table names what a factor is of", () => {
  const verdict = { word: "better", difference: 1, ci95: [0.5, 1.5], margin: 0.2, more_specimens: null, notes: [] } as unknown as Schemas["VerdictView"];
  const findings = { test: { label: "Tension" }, quantity: { label: "strength", unit: "N", name: "x", derived: false }, reference_arm_id: "a", problems: [], arms: [finding("a", 2), finding("b", 3, { verdict, relative: { factor: 1.5, ci95: [1.2, 1.8] } })] } as unknown as Schemas["Findings"];
  const [head = [], ...rows] = verdictRows(findings);
  const at = (name: string) => rows.map((r) => r[head.indexOf(name)]);
  expect([at("factor"), at("factor_ci95_high"), at("against"), at("verdict")]).toEqual([[null, 1.5], [null, 1.8], ["", "Hollin a"], ["reference", "better"]]);
});

const cell = (arm_id: string, change: Schemas["Change"] | null, at: number | null, factor?: number, n = 5) => ({ arm_id, change, at, interval: null, group: { n, at_least: 0, at_most: 0 }, value: 1, verdict: null, relative: factor ? { factor, ci95: null } : null, provisional: null, notes: [] });
const row = (label: string, orientation: string, quantity: string, cells: unknown[]) => ({ test_id: label, label, orientation, quantity: { name: quantity, label: quantity, unit: "MPa", good_side: "higher", derived: false }, margin: 1, margin_share: 0.1, cells });

test("what an arm gains comes first, the greatest change first, each under a name of its own", () => {
  const rows = [row("Tension", "flat", "strength", [cell("b", "gains", 1.2, 1.12)]), row("Tension", "upright", "strength", [cell("b", "gains", 3, 1.3)]), row("Warp", "flat", "mean lift", [cell("b", "open", 0.4, 1.04, 2)]), row("Price", "", "price per kg", [cell("b", "gives up", -9, 1.9)])];
  const across = { rows, names: { a: "Plain", b: "Filled" }, reference_arm_id: "a" } as unknown as Schemas["AcrossView"];
  expect(changesOf(across, "b").map((c) => [c.change, ...c.parts.map((p) => `${p.name} ${p.size}`)])).toEqual([
    ["gains", "strength (tension, upright) +30 %", "strength (tension, flat) +12 %"],
    ["gives up", "price per kg +90 %"],
    ["open", "mean lift n 2"],
  ]);
  expect(profileText(across, ["b"])).toContain("Filled against Plain: gains strength (tension, upright) +30 %,");
});

describe("responses over one setting", () => {
  const quantity = { label: "strength", unit: "MPa", name: "strength", good_side: "higher", derived: false };
  const cellOf = (arm_id: string, value: number, ci95: [number, number] | null = null) => ({ arm_id, value, group: ci95 && { ci95 } });
  const rows = [
    { test_id: "t", label: "Tension", orientation: "flat", quantity, cells: [cellOf("b", 50, [48, 52]), cellOf("a", 40)] },
    { test_id: null, label: "Print time", orientation: "", quantity: { label: "time", unit: "min", name: "print_time", good_side: "lower", derived: false }, cells: [cellOf("a", 60), cellOf("b", 120)] },
  ];
  const across = (varied: unknown) => ({ rows, varied }) as unknown as Schemas["AcrossView"];

  it("are in the order of the levels, strengths per hour of printing too", () => {
    const [strength, perHour, time] = responsesOf(across({ label: "fan", unit: "%", levels: { a: 10, b: 40 } }));
    expect(strength?.points).toEqual([{ x: 10, mean: 40, ci95: null }, { x: 40, mean: 50, ci95: [48, 52] }]);
    expect(perHour?.points.map((p) => p.mean)).toEqual([40, 25]);
    expect(perHour?.points[1]?.ci95).toEqual([24, 26]);
    expect(time?.points.map((p) => p.mean)).toEqual([60, 120]);
  });

  it("are none where no setting was varied", () => {
    expect(responsesOf(across(null))).toEqual([]);
  });
});
