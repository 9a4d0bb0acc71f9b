import { describe, expect, it } from "vitest";

import { lyingOn, minutesOf, takes } from "./plates";

describe("what a plate takes", () => {
  it("is told in hours and minutes, and read so", () => {
    expect(["", "65", "1:05", "1,5", "0", "1:75", "x"].map(minutesOf)).toEqual([null, 65, 65, 1.5, undefined, undefined, undefined]);
    expect(takes([{ mass: 10, minutes: 30 }, { mass: 5.4, minutes: 45 }])).toBe("15 g, 1 h 15 min");
    expect(takes([{ mass: null, minutes: 30 }])).toBe("30 min");
  });
  it("is told kind by kind", () => {
    const pieces = ["bar, flat", "rod, upright", "bar, flat"].map((kind, i) => ({ position: i, test_id: "t", kind, spare: false, x: 0, y: 0, turned: false, code: null }));
    expect(lyingOn({ pieces })).toBe("2 × bar, flat; 1 × rod, upright");
  });
});
