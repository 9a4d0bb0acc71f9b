import { describe, expect, it } from "vitest";

import { nearest } from "./nearest";

describe("what is nearest to a touch", () => {
  const dots = [
    { code: "A", x: 10, y: 5 },
    { code: "B", x: 14, y: 5 },
    { code: "C", x: 40, y: 5 },
  ];
  const at = (point: [number, number], within = 12) => nearest(dots, (d) => [d.x, d.y], point, within)?.code ?? null;
  it("is chosen also where another lies over it", () => {
    expect(at([11.5, 6])).toBe("A");
    expect(at([12.5, 6])).toBe("B");
  });
  it("is nothing where everything is far", () => {
    expect(at([26, 5], 11)).toBeNull();
    expect(at([26, 5], 12)).toBe("B");
    expect(nearest([], () => [0, 0], [0, 0], 9)).toBeNull();
  });
});
