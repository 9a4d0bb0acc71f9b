import { describe, expect, it } from "vitest";

import { durationWords, minutesOf, takes } from "./plates";
import { numberOf, sizeQuery, sizesTold } from "./sizes";

describe("sizes of one's own", () => {
  it("are told where they differ from those delivered", () => {
    const plain = { width: 10, thickness: 4 };
    expect(sizesTold(plain, {})).toEqual([]);
    expect(sizesTold(plain, { width: "12,5", thickness: "4" })).toEqual(["width=12.5"]);
    expect(sizesTold(plain, { width: "" })).toEqual([]);
    expect(sizesTold(plain, { width: "wide" })).toBeNull();
    expect(sizeQuery(["width=12.5"], 3)).toBe("&size=width%3D12.5&number=3");
    expect(sizeQuery([], null)).toBe("");
    expect(["", "7", "0", "1000", "1.5", "x"].map(numberOf)).toEqual([null, 7, undefined, undefined, undefined, undefined]);
  });
});

describe("what a plate takes", () => {
  it("is told in hours and minutes, and read so", () => {
    expect([0.4, 45, 59.6, 65, 120, 900].map(durationWords)).toEqual(["0 min", "45 min", "1 h", "1 h 5 min", "2 h", "15 h"]);
    expect(["", "65", "1:05", "1,5", "0", "1:75", "x"].map(minutesOf)).toEqual([null, 65, 65, 1.5, undefined, undefined, undefined]);
    expect(takes([{ mass: 10, minutes: 30 }, { mass: 5.4, minutes: 45 }])).toBe("15 g, 1 h 15 min");
    expect(takes([{ mass: null, minutes: 30 }])).toBe("30 min");
  });
});
