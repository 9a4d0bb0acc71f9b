import { expect, test } from "vitest";

import { readAt, seconds, soundsBetween } from "./clock";

test("a reading typed at its tone has the time of the tone; an early or late one its own", () => {
  expect(readAt(1000, 20, 1000 + 22_500)).toBe(21_000);
  expect(readAt(1000, 80, 1000 + 95_000)).toBe(81_000);
  expect(readAt(1000, 20, 1000 + 31_000)).toBe(32_000);
  expect(readAt(1000, 20, 1000 + 18_000)).toBe(19_000);
});

test("three ticks and a call, each once, whatever the pace of looking", () => {
  const heard: string[] = [];
  for (let t = 0; t < 21; t += 0.25) heard.push(...soundsBetween([5, 20], t - 0.25, t));
  expect(heard).toEqual(["tick", "tick", "tick", "call", "tick", "tick", "tick", "call"]);
  expect(soundsBetween([2], -1, 3)).toEqual(["tick", "call"]);
});

test("seconds are shown as minutes from one on", () => {
  expect([seconds(7.4), seconds(80), seconds(-3)]).toEqual(["7", "1:20", "0"]);
});
