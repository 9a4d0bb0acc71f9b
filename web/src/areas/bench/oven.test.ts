import { describe, expect, it } from "vitest";

import { ended, nextField, oddReading, refusal, type Sitting } from "./oven";

const FIELDS = ["noticed_at", "failed_at"];
const member = (code: string) => ({ specimen_id: code.toLowerCase(), run_id: `run-${code}`, code, outcome: null });
const sitting = (more: Partial<Sitting> = {}): Sitting => ({ rig: "r", members: [member("AAA"), member("BBB")], track: [{ at: 1, raw: "60" }, { at: 2, raw: "62,5" }], seen: [], ...more });
const seen = (specimen_id: string, field: string, raw = "62,5") => ({ id: `${specimen_id}-${field}`, specimen_id, field, at: 2, raw });

describe("a sitting at the oven", () => {
  it("takes a specimen's letter for what is seen next of it, once the oven was read", () => {
    expect(refusal(sitting({ track: [] }), "a", FIELDS)).toContain("what the oven shows");
    expect(refusal(sitting(), "c", FIELDS)).toBe("no specimen is C");
    expect(refusal(sitting(), "b", FIELDS)).toBeNull();
    const once = sitting({ seen: [seen("aaa", "noticed_at")] });
    expect([nextField(once, "aaa", FIELDS), nextField(once, "bbb", FIELDS)]).toEqual(["failed_at", "noticed_at"]);
    expect(refusal(sitting({ seen: [seen("aaa", "noticed_at"), seen("aaa", "failed_at")] }), "a", FIELDS)).toContain("all was seen of AAA");
  });
  it("asks about what a thermometer hardly shows next", () => {
    expect(oddReading([], "24")).toBeNull();
    expect(oddReading([{ at: 1, raw: "60" }], "64")).toBeNull();
    expect(oddReading([{ at: 1, raw: "60" }], "45")).toBeNull();
    expect(oddReading([{ at: 1, raw: "60" }], "44")).toContain("cooled");
    expect(oddReading([{ at: 1, raw: "60" }], "640")).toContain("leap");
    expect(oddReading([{ at: 1, raw: "60" }], "sixty")).toContain("no temperature");
  });
  it("ends with what was seen, or with the last temperature as the least", () => {
    const s = sitting({ seen: [seen("aaa", "noticed_at", "60")] });
    expect(ended(s, member("AAA"), FIELDS, "stood")).toEqual({ readings: s.seen, outcome: null });
    expect(ended(s, { ...member("AAA"), outcome: "curled" }, FIELDS, "stood")?.outcome).toBe("curled");
    const stood = ended(s, member("BBB"), FIELDS, "stood");
    expect([stood?.outcome, stood?.readings.map((r) => [r.field, r.raw])]).toEqual(["stood", [["noticed_at", "62,5"]]]);
    expect(ended(sitting({ track: [] }), member("BBB"), FIELDS, "stood")).toBeNull();
    expect(ended(s, member("BBB"), FIELDS, null)).toBeNull();
  });
});
