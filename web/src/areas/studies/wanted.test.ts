import { describe, expect, it } from "vitest";

import { dayOf, endOf, isLate } from "./wanted";

describe("when an answer is needed", () => {
  it("is late once that day is over, wherever one is", () => {
    expect(dayOf(endOf("2026-01-05"))).toBe("2026-01-05");
    const end = endOf("2026-01-05");
    expect(isLate(end, new Date("2026-01-05T23:00:00").getTime())).toBe(false);
    expect(isLate(end, new Date("2026-01-06T00:00:01").getTime())).toBe(true);
    expect(isLate(null, 5)).toBe(false);
  });
});
