import { describe, expect, it } from "vitest";

import { readNumber, typed } from "./number";

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
