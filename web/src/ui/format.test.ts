import { describe, expect, it } from "vitest";

import { decimalsFor, figure, interval, localMinute, tickLabel, ticks, timeLeft } from "./format";

describe("figures", () => {
  it("carry as many digits as their interval does", () => {
    expect(figure(45.678, [42.7, 48.7])).toBe("45.7");
    expect(figure(22.6931, [21.73, 23.66])).toBe("22.69");
    expect(figure(1994.7, [1974, 2017])).toBe("1995");
    expect(interval([-0.42, 0.38])).toBe("−0.42 … 0.38");
    expect(decimalsFor(0, null)).toBe(2);
  });
  it("have round ticks within their range", () => {
    expect(ticks(0, 1050, 4)).toEqual([0, 500, 1000]);
    expect(ticks(-0.3, 0.3, 3).map((t) => tickLabel(t, [-0.2, 0]))).toEqual(["−0.2", "0.0", "0.2"]);
  });
});

describe("times", () => {
  it("count down and over", () => {
    expect([10_740_000, 0, -720_000, 59 * 60_000].map(timeLeft)).toEqual(["2 h 59 left", "0 min left", "12 min over", "59 min left"]);
  });
  it("come back from a field as the same minute", () => {
    const iso = "2026-11-23T13:05:00.000Z";
    expect(new Date(localMinute(iso)).toISOString()).toBe(iso);
  });
});
