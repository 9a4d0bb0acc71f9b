import { describe, expect, it } from "vitest";

import { ago, boundSign, decimalsFor, durationWords, figure, fixed, interval, localMinute, onDay, plain, probability, short, signed, span, tickLabel, ticks, timeLeft } from "./format";

describe("figures", () => {
  it("carry as many digits as their interval does", () => {
    expect(figure(45.678, [42.7, 48.7])).toBe("45.7");
    expect(figure(22.6931, [21.73, 23.66])).toBe("22.69");
    expect(figure(1994.7, [1974, 2017])).toBe("1995");
    expect(interval([-0.42, 0.38])).toBe("−0.42 … 0.38");
    expect(decimalsFor(0, null)).toBe(2);
  });
  it("carry three digits without one, never more than six decimals, never less than none", () => {
    expect(["45.678", "0.045678", "4567.8", "0.00000012"].map((v) => figure(Number(v)))).toEqual(["45.7", "0.0457", "4568", "0.000000"]);
    expect(decimalsFor(5, [-500, 500])).toBe(0);
    expect(decimalsFor(5, [4.9999999, 5.0000001])).toBe(6);
  });
  it("have a true minus and no minus before nothing", () => {
    expect([-1.24, -0.04, 0].map((v) => fixed(v, 1))).toEqual(["−1.2", "0.0", "0.0"]);
    expect([1.24, -1.24, 0].map((v) => signed(v, 1))).toEqual(["+1.2", "−1.2", "0.0"]);
  });
  it("are short where a person set them", () => {
    expect([0, 40, 12.5, -0.125, 1234.5678].map(short)).toEqual(["0", "40", "12.5", "−0.125", "1235"]);
    expect([0, 0.0123, 12.34, 1234].map(plain)).toEqual(["0", "0.0123", "12.3", "1234"]);
    expect([0.2, 0.0123, 0.00005].map(probability)).toEqual(["0.20", "0.012", "< 0.0001"]);
  });
  it("have round ticks within their range", () => {
    expect(ticks(0, 1050, 4)).toEqual([0, 500, 1000]);
    expect(ticks(-0.3, 0.3, 3).map((t) => tickLabel(t, [-0.2, 0]))).toEqual(["−0.2", "0.0", "0.2"]);
    expect(ticks(3, 3, 4)).toContain(3);
    // one step alone would tell no scale, and a half must not be shown as a whole
    expect(ticks(0.13, 0.62, 2).map((t, _, all) => tickLabel(t, all))).toEqual(["0.2", "0.4", "0.6"]);
    expect(ticks(41, 79, 2.2)).toEqual([50, 60, 70]);
    expect(tickLabel(0.5, [0.5])).toBe("0.5");
    for (const [low, high] of [[0.2, 0.9], [17, 93], [-5, 12000]] as const) {
      const found = ticks(low, high, 5);
      expect(found.length).toBeGreaterThanOrEqual(2);
      expect(Math.min(...found)).toBeGreaterThanOrEqual(low - 1e-9);
      expect(Math.max(...found)).toBeLessThanOrEqual(high + 1e-9);
    }
  });
  it("say what bounds make of a mean", () => {
    expect([[1, 0], [0, 2], [1, 1], [0, 0]].map(([at_least, at_most]) => boundSign({ at_least: at_least ?? 0, at_most: at_most ?? 0 }))).toEqual(["≥ ", "≤ ", "", ""]);
  });
});

describe("times", () => {
  it("count down and over", () => {
    expect([10_740_000, 0, -720_000, 59 * 60_000, 125 * 60_000].map(timeLeft)).toEqual(["2 h 59 min left", "0 min left", "12 min over", "59 min left", "2 h 5 min left"]);
    expect([0.4, 45, 59.6, 65, 120, 599, 600, 629, 900].map(durationWords)).toEqual(["0 min", "45 min", "1 h", "1 h 5 min", "2 h", "9 h 59 min", "10 h", "10 h", "15 h"]);
  });
  it("come back from a field as the same minute", () => {
    const iso = "2026-11-23T13:05:00.000Z";
    expect(new Date(localMinute(iso)).toISOString()).toBe(iso);
  });
  it("are said in one unit", () => {
    expect([5, 89, 90, 3600, 5399, 5400, 36_000, 360_000, 604_800, 800_000].map(span)).toEqual(["5 s", "89 s", "2 min", "60 min", "90 min", "1.5 h", "10 h", "100 h", "168 h", "9 d"]);
  });
  it("say how long ago", () => {
    const now = Date.parse("2026-06-15T10:00:00Z");
    expect([0, 0.9, 1.1, 3, -1].map((d) => ago(new Date(now - d * 86_400_000).toISOString(), now))).toEqual(["today", "today", "yesterday", "3 days ago", "today"]);
  });
  it("name the year where it is another", () => {
    expect(onDay("2001-03-04T12:00:00Z")).toBe("4 Mar 2001");
    expect(onDay(`${String(new Date().getFullYear())}-03-04T12:00:00Z`)).toBe("4 Mar");
  });
});
