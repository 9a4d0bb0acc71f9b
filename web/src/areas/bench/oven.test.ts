import { describe, expect, it } from "vitest";

import { beginsAt, clockNear, ended, inTheWay, type Log, loggedAt, nextField, oddReading, refusal, seenAt, type Sitting, endQuestion, unknown } from "./oven";
import { entryOf, evenly } from "./ovenEntries";

const FIELDS = ["noticed_at", "failed_at"];
const member = (code: string) => ({ specimen_id: code.toLowerCase(), run_id: `run-${code}`, code, letter: code.charAt(0).toLowerCase(), outcome: null });
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
  it("asks before one that still stands is taken out, and not where every one gave way", () => {
    expect(endQuestion(sitting({ seen: [seen("aaa", "noticed_at", "60")] }), FIELDS, "stood")).toBe("1 of 2 sagged; BBB would count as withstanding 62,5: end here?");
    expect(endQuestion(sitting({ seen: [seen("aaa", "noticed_at"), seen("bbb", "noticed_at")] }), FIELDS, "stood")).toBeNull();
    expect(endQuestion(sitting(), FIELDS, null)).toBeNull();
  });
});

describe("a logger's file", () => {
  const noon = new Date(2026, 10, 27, 12, 0, 0).getTime();
  const log: Log = { id: "log", name: "oven.csv", text: "…", begins: noon, points: [[0, 40], [60, 42], [120, 50]] };
  const at = (seconds: number) => noon + seconds * 1000;
  const saw = (seconds: number, raw = "") => ({ id: `aaa-${String(seconds)}`, specimen_id: "aaa", field: "noticed_at", at: at(seconds), raw });

  it("tells the temperature of an instant between its rows, and none outside", () => {
    expect([0, 30, 60, 90, 120].map((s) => loggedAt(log, at(s)))).toEqual([40, 41, 42, 46, 50]);
    expect([-1, 121].map((s) => loggedAt(log, at(s)))).toEqual([null, null]);
    expect(loggedAt({ ...log, points: [] }, at(0))).toBeNull();
  });
  it("stands before what was typed, and names those whose temperature nobody knows", () => {
    const s = sitting({ track: [], logged: true, seen: [saw(30), saw(300)] });
    expect(refusal(s, "b", FIELDS)).toBeNull();
    expect([seenAt(s, saw(30)), seenAt({ ...s, log }, saw(30)), seenAt({ ...s, log }, saw(30, "60")), seenAt({ ...s, log }, saw(300, "60"))]).toEqual(["", "41.0 °C", "41.0 °C", "60"]);
    expect([unknown(s), unknown({ ...s, log }), unknown({ ...s, log, seen: [saw(30)] })]).toEqual([["AAA"], ["AAA"], []]);
    expect([inTheWay(s), inTheWay({ ...s, log })].map((w) => w?.split(". ")[1])).toEqual(["Read the logger’s file, or leave it out", "Set when the log begins, or leave it out"]);
    expect(["", "0,5", "often", "0", "-1"].map((every) => inTheWay(sitting({ every }))?.slice(0, 12) ?? null)).toEqual([null, null, "“often” is n", "“0” is no st", "“-1” is no s"]);
    expect(ended({ ...s, log }, member("AAA"), FIELDS, "stood")).toBeNull();
    expect(ended({ ...s, log, seen: [saw(30)] }, member("AAA"), FIELDS, "stood")?.readings[0]?.raw).toBe("41.0 °C");
    // one that stood bears at least what the log showed last
    expect(ended({ ...s, log, seen: [] }, member("BBB"), FIELDS, "stood")?.readings.map((r) => [r.raw, r.at])).toEqual([["50.0 °C", at(120)]]);
  });
  it("begins by its first cell, or when they were put in where that is no time of day", () => {
    const local = (...of: [number, number, number, number, number, number]) => new Date(...of).getTime();
    expect(beginsAt("2026-11-27 11:58:30", noon)).toBe(local(2026, 10, 27, 11, 58, 30));
    expect(beginsAt("27.11.2026 11:58", noon)).toBe(local(2026, 10, 27, 11, 58, 0));
    expect(beginsAt("11:58:30", noon)).toBe(local(2026, 10, 27, 11, 58, 30));
    expect(["00:00:05", "0", "", "8:00"].map((c) => beginsAt(c, noon))).toEqual([noon, noon, noon, noon]);
    const late = local(2026, 10, 27, 0, 2, 0);
    expect(beginsAt("23:59:00", late)).toBe(local(2026, 10, 26, 23, 59, 0));
    expect([clockNear("25:00", noon), clockNear("12:61", noon), clockNear("noon", noon)]).toEqual([null, null, null]);
  });
  it("goes along with the run of each, and what was typed as readings with their times", () => {
    const told = { testId: "t", course: "course", looked: "noticed_step", outcome: "sagged" };
    const with_log = sitting({ log, seen: [saw(30)] });
    const [first, second] = [entryOf(with_log, member("AAA"), { readings: [saw(30, "41.0 °C")] }, told), entryOf(with_log, member("BBB"), { readings: [saw(120, "50.0 °C")] }, told)];
    expect([first.curve?.id, first.run.curve_id, first.curve?.log, first.run.readings.length]).toEqual(["log", "log", true, 1]);
    expect(second.run.curve_id).toBe(second.curve?.id);
    expect(second.curve?.id).not.toBe("log");
    expect(first.run.happened_at).toBe(new Date(at(30)).toISOString());
    const without = entryOf(sitting(), member("AAA"), { readings: [saw(30, "60")] }, told);
    expect(without.curve).toBeUndefined();
    expect(without.run.readings.slice(1).map((r) => [r.field, r.position, r.raw, r.after])).toEqual([["course", 0, "60", 0], ["course", 1, "62,5", 0.001]]);
    const closer = entryOf(sitting({ track: [], every: " 0,5 " }), member("AAA"), { readings: [saw(30, "60")] }, told);
    expect(closer.run.readings.map((r) => [r.field, r.raw])).toEqual([["noticed_at", "60"], ["noticed_step", "0,5"]]);
    expect(evenly([0, 1, 2, 3, 4, 5, 6, 7, 8], 3)).toEqual([0, 4, 8]);
    expect(evenly([0, 1], 3)).toEqual([0, 1]);
  });
});
