import { describe, expect, it } from "vitest";

import { problemOf, readBetween, readNumber, typed } from "./number";

describe("numbers as typed", () => {
  it("takes either decimal mark and refuses thousands", () => {
    expect(["1,75", "1.75", " 12 ", "-3", ".5", "5,"].map(readNumber)).toEqual([1.75, 1.75, 12, -3, 0.5, 5]);
    expect(["1,234.5", "1 234", "abc", "12g", "1e5"].map(readNumber)).toEqual(Array<undefined>(5).fill(undefined));
    expect(readNumber("  ")).toBeNull();
  });
  it("shows what was typed, without rounding dust", () => {
    expect(typed(0.1 + 0.2)).toBe("0.3");
    expect(typed(null)).toBe("");
  });
});

describe("numbers within limits", () => {
  const heat = { min: 20, max: 200 };
  it("are never changed: what cannot be is undefined, an empty field null", () => {
    expect(["65", "6,5", "650", "20", "200", "19.9", "", "abc"].map((text) => readBetween(text, heat))).toEqual([65, undefined, undefined, 20, 200, undefined, null, undefined]);
    expect([readBetween("3", { min: 1, whole: true }), readBetween("2,5", { min: 1, whole: true })]).toEqual([3, undefined]);
  });
  it("say what may stand there and what was likely meant", () => {
    expect(problemOf("6,5", heat)).toBe("from 20 to 200: did you mean 65?");
    expect(problemOf("650", heat)).toBe("from 20 to 200: did you mean 65?");
    expect(problemOf("1", heat)).toBe("from 20 to 200: did you mean 100?");
    expect(problemOf("65", heat)).toBeNull();
    expect(problemOf("", heat)).toBeNull();
    expect(problemOf("x", heat)).toBe("a number is needed here");
    expect(problemOf("-3", { min: 0 })).toBe("0 or more");
    expect(problemOf("2.5", { min: 1, max: 6, whole: true })).toBe("a whole number, from 1 to 6");
  });
});
