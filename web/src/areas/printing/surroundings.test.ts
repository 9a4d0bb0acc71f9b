import { expect, it } from "vitest";

import { roomOf } from "./surroundings";

it("a room is a number with comma or point, or nothing", () => {
  expect(roomOf(" 21,5 ")).toBe(21.5);
  expect(roomOf("")).toBeNull();
  expect(roomOf("warm")).toBeUndefined();
  expect(roomOf("215")).toBeUndefined();
});
