import { expect, test } from "vitest";

import { MARKS, place, size } from "./ages";

const DAY = 86_400_000;

test("ages grow along the axis and stay on it", () => {
  const places = [0, ...MARKS.map((m) => m.age), 400 * DAY].map(place);
  expect(places).toEqual([...places].sort((a, b) => a - b));
  expect(place(0)).toBe(0);
  expect(place(400 * DAY)).toBe(1);
  expect(place(4000 * DAY)).toBe(1);
  expect(place(DAY) - place(DAY / 2)).toBeCloseTo(place(200 * DAY) - place(100 * DAY), 9);
});

test("sizes are said in their own measure", () => {
  expect([0, 999, 1400, 429_231, 12_400_000, 3.2e9].map(size)).toEqual(["0 bytes", "999 bytes", "1.4 kB", "429 kB", "12 MB", "3.2 GB"]);
});
