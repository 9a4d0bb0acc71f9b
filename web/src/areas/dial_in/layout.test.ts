import { expect, test } from "vitest";

import { headOf, placed } from "./layout";
import type { Trial } from "./words";

const trial = (number: number, parent: number | null, more: Partial<Trial> = {}) =>
  ({ id: String(number), number, parent_id: parent === null ? null : String(parent), outcome: "good", decision: "", control: null, series: null, ...more }) as Trial;

// as in the trail of a part that came off, was rescued, and had a branch of two
const trials = [trial(1, null), trial(2, 1), trial(3, 1, { outcome: "failed" }), trial(4, 2), trial(5, 2, { decision: "drop" }), trial(6, 5, { decision: "drop" }), trial(9, 4)];

test("the main way stands in the first row, branches below it, and no two in one place", () => {
  const found = placed(trials, headOf(trials, null));
  const at = Object.fromEntries(found.map((p) => [p.trial.number, [p.column, p.row]]));
  expect([1, 2, 4, 9].map((n) => at[n])).toEqual([[0, 0], [1, 0], [2, 0], [3, 0]]);
  expect(at[5]?.[1]).toBe(at[6]?.[1]);
  expect(at[5]?.[0]).toBe(2);
  expect(new Set(found.map((p) => `${String(p.column)},${String(p.row)}`)).size).toBe(trials.length);
  expect(found.filter((p) => p.main).map((p) => p.trial.number)).toEqual([1, 2, 4, 9]);
});

test("what was accepted is where the trail has come to, failures and towers are not", () => {
  expect(headOf(trials, "4")?.number).toBe(4);
  expect(headOf([...trials, trial(10, 9, { outcome: "stopped" }), trial(11, 9, { outcome: "planned" })], null)?.number).toBe(9);
  expect(headOf([trial(1, null, { outcome: "planned" })], null)?.number).toBe(1);
});

test("a long trail with many branches keeps everybody apart", () => {
  const many = Array.from({ length: 200 }, (_, i) => trial(i + 1, i === 0 ? null : Math.max(1, i - (i % 3))));
  const found = placed(many, headOf(many, null));
  expect(found).toHaveLength(200);
  expect(new Set(found.map((p) => `${String(p.column)},${String(p.row)}`)).size).toBe(200);
});
