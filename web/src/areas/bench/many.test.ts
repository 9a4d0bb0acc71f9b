import { expect, test } from "vitest";

import { assigned, bundles, lacking, type Row, sparkline } from "./many";

const row = (id: string, specimen: string | null, more: Partial<Row> = {}): Row => ({ id, name: `${id}.csv`, rows: 9, warnings: [], error: null, doubt: null, points: [], specimen_id: specimen, code: specimen, matched: specimen ? "code" : null, ...more });

test("files go in bundles, none twice and none left behind", () => {
  expect(bundles([1, 2, 3, 4, 5], 2)).toEqual([[1, 2], [3, 4], [5]]);
  expect(bundles([])).toEqual([]);
});

test("a specimen has one file: given to another row, it leaves the one that had it", () => {
  const found = assigned([row("a", "S1"), row("b", "S2"), row("c", null)], "c", { specimen_id: "S1", code: "S1" });
  expect(found.map((r) => r.specimen_id)).toEqual([null, "S2", "S1"]);
  expect(assigned(found, "b", null).map((r) => r.specimen_id)).toEqual([null, null, "S1"]);
});

test("what is lacking is said in the order it is mended", () => {
  const measured = new Set(["S1"]);
  expect(lacking(row("a", "S1"), measured, true, false)).toBeNull();
  expect(lacking(row("a", "S2"), measured, true, false)).toBe("its dimensions are not measured yet");
  expect(lacking(row("a", "S2"), measured, true, true)).toBeNull();
  expect(lacking(row("a", "S2"), measured, false, false)).toBeNull();
  expect(lacking(row("a", null), measured, true, true)).toBe("of which specimen?");
  expect(lacking(row("a", "S1", { error: "no table" }), measured, true, true)).toBe("no table");
});

test("a small curve fills its box", () => {
  expect(sparkline([[0, 0], [5, 10], [10, 0]], 100, 40)).toBe("M0.0 40.0L50.0 0.0L100.0 40.0");
  expect(sparkline([[1, 1]], 100, 40)).toBe("M0.0 40.0");
});
