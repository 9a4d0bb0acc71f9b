import { describe, expect, it } from "vitest";

import { besidesTold } from "./Besides";

describe("what other spools gave", () => {
  const row = { material: "m", spool: "s", part: "3,5", purge: "" };
  it("is told once each has a spool and a mass", () => {
    expect(besidesTold([])).toEqual([]);
    expect(besidesTold([row])).toEqual([{ spool_id: "s", part: 3.5, purge: 0 }]);
    expect(besidesTold([row, { ...row, spool: null }])).toBeNull();
    expect(besidesTold([{ ...row, part: "", purge: "" }])).toBeNull();
    expect(besidesTold([{ ...row, purge: "x" }])).toBeNull();
    expect(besidesTold([{ ...row, part: "", purge: "2" }])).toEqual([{ spool_id: "s", part: 0, purge: 2 }]);
  });
});
