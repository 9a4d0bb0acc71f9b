import { expect, test } from "vitest";

import type { Schemas } from "../../api/client";
import { boundWords, differenceWords, groupWords, pieceWords, verdictOf, verdictWords } from "./words";

const group = { n: 5, mean: 46.9, ci95: [45.1, 48.7], at_least: 0, at_most: 0 } as Schemas["GroupView"];
const verdict = (word: Schemas["VerdictView"]["word"], more: Partial<Schemas["VerdictView"]> = {}): Schemas["VerdictView"] => ({ word, difference: -5.6, ci95: [-7.5, -3.7], ci90: null, margin: 4.8, more_specimens: null, notes: [], ...more });

test("a group says its mean, its interval, how many, and which are bounds", () => {
  expect(groupWords(group, "MPa")).toBe("46.9 MPa (45.1 … 48.7), n 5");
  expect(groupWords({ ...group, at_least: 2 }, "MPa")).toBe("≥ 46.9 MPa (45.1 … 48.7), n 5, 2 of 5 are lower bounds");
  expect(groupWords({ ...group, mean: 0.0215, ci95: [0.0195, 0.0235] }, "1")).toBe("2.15 % (1.95 … 2.35), n 5");
  expect(groupWords({ ...group, n: 1, ci95: null }, "MPa")).toBe("46.9 MPa, n 1");
  expect(boundWords({ ...group, at_least: 1, at_most: 1 })).toBe(", 1 of 5 are lower bounds, 1 of 5 are upper bounds");
});

test("a verdict is said in a sentence against the reference", () => {
  expect(verdictWords(verdict("worse"), "Ts", "MPa")).toBe("worse than Ts by 5.6 MPa");
  expect(verdictWords(verdict("better", { difference: 5.6, ci95: [3.7, 7.5] }), "Ts", "MPa")).toBe("better than Ts by 5.6 MPa");
  expect(verdictWords(verdict("equivalent"), "Ts", "MPa")).toBe("equivalent to Ts within 4.80 MPa");
  expect(verdictWords(verdict("undecided", { more_specimens: 3 }), "Ts", "MPa")).toBe("undecided against Ts: 3 more of each would decide");
  expect(verdictWords(verdict("undecided"), "Ts", "MPa")).toBe("undecided against Ts");
  expect(verdictWords(verdict("no verdict"), "Ts", "MPa")).toBe("no verdict");
  expect(verdictWords(verdict("lower", { difference: -0.002, ci95: [-0.003, -0.001] }), "Ts", "1")).toBe("lower than Ts by 0.20 %");
});

test("a difference keeps its sign and the digits of its interval", () => {
  expect(differenceWords(verdict("worse"), 1)).toBe("−5.6");
  expect(differenceWords(verdict("better", { difference: 0.03, ci95: [0.01, 0.05] }), 100)).toBe("+3.0");
});

test("the reference has no verdict of its own, and nothing tested has none", () => {
  expect(verdictOf({ verdict: null, group: null }, true)).toBeNull();
  expect(verdictOf({ verdict: null, group }, true)).toBe("reference");
  expect(verdictOf({ verdict: verdict("worse"), group }, false)).toBe("worse");
  expect(verdictOf({ verdict: null, group }, false)).toBe("no verdict");
});

test("a spool gives pieces, with what one costs where that is known", () => {
  expect(pieceWords({ pieces: 91, net: 750, cost: 0.269, currency: "€" })).toBe("91 pieces from 750 g, 0.27 € of filament each");
  expect(pieceWords({ pieces: 1, net: 750, cost: null, currency: "" })).toBe("1 piece from 750 g");
  expect(pieceWords({ pieces: 0, net: 750, cost: 40, currency: "€" })).toBe("more than a spool of 750 g, 40.00 € of filament each");
});
