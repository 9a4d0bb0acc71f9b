import { expect, test } from "vitest";

import { beside, MOST, shownParts } from "./strip";

const strip = Array.from({ length: 9 }, (_, i) => ({ key: `m${String(i)} flat`, label: `m${String(i)}` }));

test("the tests that were done most are shown, in the order of the methods, the others counted together", () => {
  const items = [{ measured: Object.fromEntries(strip.map((p, i) => [p.key, i])) }, { measured: { "m1 flat": 20, "own-x flat": 3 } }];
  const shown = shownParts(strip, items);
  expect(shown.map((p) => p.label)).toEqual(["m1", "m6", "m7", "m8"]);
  expect(shown).toHaveLength(MOST);
  expect(items.map((m) => beside(m, shown))).toEqual([0 + 2 + 3 + 4 + 5, 3]);
});

test("what nobody tested has no column", () => {
  expect(shownParts(strip, [{ measured: {} }])).toEqual([]);
  expect(beside({ measured: {} }, [])).toBe(0);
});
