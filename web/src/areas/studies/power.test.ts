import {  describe, expect, it } from "vitest";

import { calendarDays, turnsOf, needOf, optionsOf, printHours, detectableBy } from "./power";

const row = { detectable: [null, 0.18, 0.14], target: 0.15, needed: 4 };

describe("power of a test", () => {
  it("is read by the number of specimens", () => {
    expect(detectableBy(row, 1)).toBeNull();
    expect(detectableBy(row, 2)).toBeNull();
    expect(detectableBy(row, 4)).toBe(0.14);
    expect(detectableBy(row, 16)).toBe(0.14);
    expect(detectableBy({ detectable: [] }, 3)).toBeNull();
  });
  it("says whether they are enough, and in which other batches they would be", () => {
    expect(needOf(row, 3)).toBe("15 % needs 4 of each");
    expect(needOf(row, 4)).toBe("enough for 15 %");
    expect(needOf({ ...row, needed: null }, 9)).toContain("more than 50");
    expect(needOf({ ...row, target: null }, 9)).toContain("in the unit of the test");
    const by_batches = [{ batches: 1, needed: 4 }, { batches: 2, needed: null }, { batches: 3, needed: 9 }, { batches: 4, needed: 8 }];
    expect(optionsOf({ by_batches }, 2)).toBe("9 in 3 batches, 8 in 4 batches");
    expect(optionsOf({ by_batches }, 3)).toBe("8 in 4 batches");
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
