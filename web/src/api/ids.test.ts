import { expect, test, vi } from "vitest";

import { newId, sentAt } from "./ids";

test("what is sent again under its id keeps the moment of the first time", () => {
  vi.useFakeTimers({ now: new Date("2026-06-15T09:00:00Z") });
  const [one, other] = [newId(), newId()];
  expect(sentAt(one)).toBe("2026-06-15T09:00:00.000Z");
  vi.setSystemTime(new Date("2026-06-15T09:05:00Z"));
  expect(sentAt(one)).toBe("2026-06-15T09:00:00.000Z");
  expect(sentAt(other)).toBe("2026-06-15T09:05:00.000Z");
  vi.useRealTimers();
});
