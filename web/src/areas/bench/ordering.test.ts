import { expect, test } from "vitest";

import { type Answer, byPairs, fitted, joined, movedTo, type Order, orderOf, placesOf } from "./ordering";

test("places count from 1 and are shared where no difference is seen", () => {
  expect([...placesOf([["a"], ["b", "c"], ["d"]])]).toEqual([["a", 1], ["b", 2.5], ["c", 2.5], ["d", 4]]);
  expect(orderOf(placesOf([["c"], ["a", "b"]]))).toEqual([["c"], ["a", "b"]]);
});

test("a print is moved both ways, alone or out of a group", () => {
  const order: Order = [["a"], ["b"], ["c"], ["d"]];
  expect(movedTo(order, "a", 2)).toEqual([["b"], ["c"], ["a"], ["d"]]);
  expect(movedTo(order, "d", 0)).toEqual([["d"], ["a"], ["b"], ["c"]]);
  expect(movedTo(order, "b", 9)).toEqual([["a"], ["c"], ["d"], ["b"]]);
  expect(movedTo(order, "b", -1)).toEqual([["b"], ["a"], ["c"], ["d"]]);
  expect(movedTo([["a"], ["b", "c"], ["d"]], "b", 0)).toEqual([["b"], ["a"], ["c"], ["d"]]);
  expect(movedTo([["a"], ["b", "c"], ["d"]], "b", 1)).toEqual([["a"], ["b"], ["c"], ["d"]]);
  expect(movedTo([["a"], ["b", "c"], ["d"]], "b", 2)).toEqual([["a"], ["c"], ["d"], ["b"]]);
});

test("two prints are laid together and parted again", () => {
  expect(joined([["a"], ["b"], ["c"]], "b")).toEqual([["a", "b"], ["c"]]);
  expect(joined([["a", "b"], ["c"]], "b")).toEqual([["a"], ["b"], ["c"]]);
  expect(joined([["a"], ["b"]], "a")).toEqual([["a"], ["b"]]);
});

test("a draft fits the prints there are", () => {
  expect(fitted([["b"], ["gone", "a"], ["away"]], ["a", "b", "new"])).toEqual([["b"], ["a"], ["new"]]);
});

/** Answers as somebody gives them who sees the numbers: greater is better, equal is no difference. */
function walked(worth: Record<string, number>): { order: Order; asked: number; most: number } {
  const ids = Object.keys(worth);
  const answers: Answer[] = [];
  const most = byPairs(ids, []).left;
  for (;;) {
    const { next, left, order } = byPairs(ids, answers);
    if (!next) return { order, asked: answers.length, most };
    expect(left).toBeGreaterThan(0);
    const [l, r] = next.map((id) => worth[id] ?? 0) as [number, number];
    answers.push({ better: l > r ? "left" : l < r ? "right" : "neither" });
  }
}

test("pairs lead to the order that was seen, with few questions", () => {
  for (let seed = 1; seed <= 60; seed++) {
    const n = 1 + (seed % 12);
    const worth = Object.fromEntries(Array.from({ length: n }, (_, i) => [`p${String(i)}`, Math.floor(((Math.sin(seed * 31 + i * 7) + 1) * 50 * (seed % 3 ? 1 : 0.06)) % 50)]));
    const { order, asked, most } = walked(worth);
    const values = order.map((group) => group.map((id) => worth[id] ?? 0));
    expect(values.flat()).toHaveLength(n);
    for (const group of values) expect(new Set(group).size).toBe(1);
    for (const [i, group] of values.slice(1).entries()) expect(group[0]).toBeLessThan(values[i]?.[0] ?? 0);
    expect(asked).toBeLessThanOrEqual(most);
    expect(asked).toBeLessThanOrEqual(n * Math.ceil(Math.log2(n + 1)));
  }
});

test("the last answer is taken back by leaving it out", () => {
  const answers: Answer[] = [{ better: "left" }, { better: "right" }];
  expect(byPairs(["a", "b", "c"], answers.slice(0, 1)).next).toEqual(["c", "a"]);
  expect(byPairs(["a", "b", "c"], answers).next).toBeNull();
});
