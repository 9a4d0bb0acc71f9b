import { describe, expect, it } from "vitest";

import { numberOf, sizeQuery, sizesTold } from "./sizes";

describe("sizes of one's own", () => {
  it("are told where they differ from those delivered", () => {
    const plain = { width: 10, thickness: 4 };
    expect(sizesTold(plain, {})).toEqual([]);
    expect(sizesTold(plain, { width: "12,5", thickness: "4" })).toEqual(["width=12.5"]);
    expect(sizesTold(plain, { width: "" })).toEqual([]);
    expect(sizesTold(plain, { width: "wide" })).toBeNull();
    expect(sizeQuery(["width=12.5"], 3)).toBe("&size=width%3D12.5&number=3");
    expect(sizeQuery([], null)).toBe("");
    expect(["", "7", "0", "1000", "1.5", "x"].map(numberOf)).toEqual([null, 7, undefined, undefined, undefined, undefined]);
  });
});
