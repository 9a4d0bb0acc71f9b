import { expect, test } from "vitest";

import { BurstDetector, isGaugeReading } from "./burst";

function type(detector: BurstDetector, text: string, gap: number, from = 1000): number {
  let at = from;
  for (const char of text) {
    detector.key(char, at);
    at += gap;
  }
  return at;
}

test("a scanner's burst is told from a person's typing by its pace", () => {
  const detector = new BurstDetector();
  expect(detector.enter(type(detector, "7K2QF", 6))).toBe("7K2QF");
  expect(detector.enter(type(detector, "60.25", 90))).toBeNull();
});

test("a person's digits just before a scan do not become part of the code", () => {
  const detector = new BurstDetector();
  const paused = type(detector, "60.2", 110) + 300;
  expect(detector.enter(type(detector, "F4MTA", 5, paused))).toBe("F4MTA");
});

test("a late Enter after a burst is a person's", () => {
  const detector = new BurstDetector();
  expect(detector.enter(type(detector, "7K2QF", 5) + 400)).toBeNull();
});

test("a calliper that types sends a number, not a code", () => {
  expect(isGaugeReading("4.02")).toBe(true);
  expect(isGaugeReading("4,02 mm")).toBe(true);
  expect(isGaugeReading("40213")).toBe(false);
  expect(isGaugeReading("7K2QF")).toBe(false);
});
