import { describe, expect, it } from "vitest";

import { columnWidth, fitting, nearer, rowHeight, stageWords } from "./zoom";

const cell = (more: object) => ({ planned: 5, printed: 0, treated: 0, tested: 0, dots: [], ...more });

describe("a board that is looked at", () => {
  it("shows what can be overlooked", () => {
    expect(fitting(5, 4)).toBe("all");
    expect(fitting(12, 6)).toBe("all");
    expect(fitting(13, 6)).toBe("intervals");
    expect(fitting(6, 7)).toBe("intervals");
    expect(fitting(40, 12)).toBe("marks");
    expect(fitting(24, 10)).toBe("intervals");
  });
  it("is looked at closer and farther, to both ends", () => {
    expect(nearer("marks", 1)).toBe("intervals");
    expect(nearer("all", 1)).toBe("all");
    expect(nearer("marks", -1)).toBe("marks");
    expect(nearer("all", -1)).toBe("intervals");
  });
  it("fits forty arms and twelve tests on a screen as marks", () => {
    expect(columnWidth("marks", 1280 - 46 - 268, 12)).toBeLessThanOrEqual(80);
    expect(12 * columnWidth("marks", 966, 12)).toBeLessThan(966);
    expect([rowHeight("marks", 40), rowHeight("marks", 24)]).toEqual([18, 27]);
    expect([rowHeight("all", 6), rowHeight("all", 7)]).toEqual([88, 63]);
    expect(columnWidth("all", 966, 12)).toBe(118);
    expect(columnWidth("intervals", 966, 12)).toBe(92);
  });
  it("says how far each cell is", () => {
    expect(stageWords(cell({}), false, false)).toBe("0 of 5 tested");
    expect(stageWords(cell({ printed: 3 }), true, true)).toBe("0 of 5 tested, 3 printed, 0 treated, late");
    const dots = [{ state: "left_out" }, { state: "counts" }] as never[];
    expect(stageWords(cell({ printed: 5, tested: 5, dots }), false, true)).toBe("5 of 5 tested, 1 left out");
  });
});
