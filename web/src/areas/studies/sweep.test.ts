import { describe, expect, it } from "vitest";

import { levelsOf, questionOf } from "./sweep";

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
