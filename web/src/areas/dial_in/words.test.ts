import { describe, expect, it } from "vitest";

import { lowestFirst, printsGood } from "./words";

describe("what is said of a dial-in", () => {
  it("lists every grade, the lowest first, equal ones in the order of the traits", () => {
    const traits = ["bridging", "stringing", "overhang", "odour", "gloss", "seam", "clear"].map((name) => ({ name }));
    const grades = { seam: 3, overhang: 1, stringing: 1, bridging: 4, clear: 0.5, gloss: 2 };
    expect(lowestFirst(grades, traits).map((g) => [g.trait.name, g.grade])).toEqual([["clear", 0.5], ["stringing", 1], ["overhang", 1], ["gloss", 2], ["seam", 3], ["bridging", 4]]);
    expect(lowestFirst({}, traits)).toEqual([]);
  });
  it("says what the count of good prints leaves out", () => {
    expect(printsGood(5, 10, 0)).toBe("5 of 10 prints good");
    expect(printsGood(5, 10, 1)).toBe("5 of 10 prints good, 1 control print not counted");
    expect(printsGood(5, 10, 2)).toBe("5 of 10 prints good, 2 control prints not counted");
  });
});
