import { describe, expect, it } from "vitest";

import { besideAt, levelsOf, questionOf, studiedNames, withBeside } from "./sweep";

describe("values of a setting as typed", () => {
  it("are apart by semicolons or spaces, with comma or point", () => {
    expect(levelsOf("0; 50;100")).toEqual([0, 50, 100]);
    expect(levelsOf("0,2 0.25")).toEqual([0.2, 0.25]);
    expect(levelsOf("-1")).toEqual([-1]);
    expect(levelsOf("cold; 3")).toBeNull();
    expect(levelsOf("")).toEqual([]);
  });
  it("make a question once each setting has two", () => {
    expect(questionOf([], "fraction", 1, 8)).toBeNull();
    expect(questionOf([{ name: "fan", typed: "0" }], "fraction", 1, 8)).toBeNull();
    expect(questionOf([{ name: null, typed: "0;1" }], "fraction", 1, 8)).toBeNull();
    expect(questionOf([{ name: "fan", typed: "0;x" }], "fraction", 1, 8)).toBeNull();
    expect(questionOf([{ name: "fan", typed: "0;50" }], "Latin hypercube", 2, 9)).toEqual({ kind: "Latin hypercube", halvings: 2, runs: 9, seed: 1, factors: [{ name: "fan", levels: [0, 50] }] });
  });
});

describe("a setting that moves along", () => {
  const wall = { name: "line_width", typed: "0.4; 0.6", beside: { name: "perimeters", typed: "3; 2" } };
  it("has a value for each level, and lies straight between them", () => {
    expect(besideAt([0.4, 0.6], [3, 2], 0.4)).toBe(3);
    expect(besideAt([0.6, 0.4], [2, 3], 0.6)).toBe(2);
    expect(besideAt([0.4, 0.6], [3, 2], 0.45)).toBe(2.75);
    expect(besideAt([0, 1, 2], [5, 7, 1], 1)).toBe(7);
    expect(besideAt([0, 1, 2], [5, 7, 1], 3)).toBe(-5);
    expect(withBeside({ line_width: 0.6, fan: 20 }, [wall, { name: "fan", typed: "20;40" }])).toEqual({ line_width: 0.6, fan: 20, perimeters: 2 });
  });
  it("is one factor with it, and no question until it is whole", () => {
    expect(studiedNames([wall, { name: "fan", typed: "" }, { name: null, typed: "" }])).toEqual(["line_width+perimeters", "fan"]);
    expect(questionOf([wall], "all combinations", 1, 8)?.factors).toEqual([{ name: "line_width", levels: [0.4, 0.6] }]);
    expect(questionOf([{ ...wall, beside: { name: "perimeters", typed: "3" } }], "all combinations", 1, 8)).toBeNull();
    expect(questionOf([{ ...wall, beside: { name: null, typed: "3;2" } }], "all combinations", 1, 8)).toBeNull();
  });
});
