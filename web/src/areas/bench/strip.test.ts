import { expect, it } from "vitest";

import { strip } from "./strip";

const queue = Array.from({ length: 25 }, (_, i) => i);

it("shows two behind and what comes next", () => {
  expect(strip(queue, 6, () => true)).toEqual([4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15]);
  expect(strip(queue, 0, () => true)).toEqual(queue.slice(0, 12));
});

it("shows the next one that waits, however many done ones lie between", () => {
  const shown = strip(queue, 2, (i) => [2, 20, 24].includes(i));
  expect(shown).toContain(20);
  expect(shown).toContain(24);
  expect(shown).toHaveLength(12);
  expect(shown.slice(0, 3)).toEqual([0, 1, 2]);
});

it("fills up with what lies nearest, also behind", () => {
  expect(strip(queue, 23, () => false)).toEqual(queue.slice(13));
  expect(strip(queue.slice(0, 3), 1, () => true)).toEqual([0, 1, 2]);
  // nothing at hand: the end of the queue
  expect(strip(queue, 25, () => false)).toEqual(queue.slice(13));
});
