import {  describe, expect, it } from "vitest";

import { calendarDays, turnsOf, needOf, printHours, seenBy } from "./power";

const row = { seen: [0.34, 0.18, 0.14], margin: 0.15, needed: 4 };

describe("power of a test", () => {
  it("is read by the number of specimens, and goes on by their root", () => {
    expect(seenBy(row, 1)).toBeNull();
    expect(seenBy(row, 2)).toBe(0.34);
    expect(seenBy(row, 4)).toBe(0.14);
    expect(seenBy(row, 16)).toBeCloseTo(0.07);
    expect(seenBy({ seen: [] }, 3)).toBeNull();
  });
  it("says whether they are enough", () => {
    expect(needOf(row, 3)).toBe("what matters needs 4 of each");
    expect(needOf(row, 4)).toBe("enough for what matters");
    expect(needOf({ ...row, needed: null }, 9)).toContain("more than 50");
    expect(needOf({ ...row, margin: null }, 9)).toContain("in the unit of the test");
  });
  it("tells hours by volume", () => {
    expect(printHours(28.8, 4)).toBeCloseTo(2);
  });
});

describe("stations and days", () => {
  it("fill the racks as often as they must", () => {
    expect(turnsOf({ places: 18, days_each: 7 }, 15)).toEqual({ turns: 1, days: 7 });
    expect(turnsOf({ places: 10, days_each: 7 }, 21)).toEqual({ turns: 3, days: 21 });
    expect(turnsOf({ places: null, days_each: 0 }, 21)).toBeNull();
    expect(turnsOf({ places: 0, days_each: 7 }, 21)).toBeNull();
  });
  it("count printing, then the longer of bench and racks", () => {
    expect(calendarDays(20, 5, [])).toBe(3);
    expect(calendarDays(20, 30, [4])).toBe(8);
    expect(calendarDays(0, 5, [14, 7])).toBe(14);
  });
});
