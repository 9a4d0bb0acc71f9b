import { describe, expect, it } from "vitest";

import { dayAfter, daysUntil } from "./followUps";

describe("the day of a follow-up", () => {
  it("is reckoned by the calendar, over the ends of months, years and summer time", () => {
    expect(dayAfter(30, new Date(2026, 0, 31, 23, 59))).toBe("2026-03-02");
    expect(dayAfter(1, new Date(2026, 11, 31))).toBe("2027-01-01");
    expect(dayAfter(7, new Date(2026, 9, 20, 0, 30))).toBe("2026-10-27");
  });
  it("is told from today, whatever the hour", () => {
    const late = new Date(2026, 5, 15, 23, 50);
    expect(["2026-06-15", "2026-06-16", "2026-06-27", "2026-06-14", "2026-06-12"].map((d) => daysUntil(d, late))).toEqual(["today", "tomorrow", "in 12 days", "since yesterday", "3 days late"]);
  });
});
