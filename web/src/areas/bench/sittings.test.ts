import { describe, expect, it } from "vitest";

import { inside, keptOf, lastOf, type Note, NOTHING, sittingOf, standing, together } from "./sittings";

const note = (at: number, what: Note["what"], more: Partial<Note> = {}): Note => ({ id: `n${String(at)}`, what, specimen_id: null, field: null, raw: "", note_id: null, at, ...more });
const served = (n: Note) => ({ ...n, at: new Date(n.at).toISOString(), entered_by: "Tomas" });
const members = ["aaa", "bbb"].map((id) => ({ specimen_id: id, run_id: `run-${id}`, code: id.toUpperCase() }));
const kept = { ...NOTHING, id: "o", rig: "r", begun: 5, members };

const NOTES = [
  note(1, "shown", { raw: "60" }),
  note(2, "seen", { specimen_id: "aaa", field: "noticed_at", raw: "60" }),
  note(3, "seen", { specimen_id: "bbb", field: "noticed_at", raw: "60" }),
  note(4, "taken back", { note_id: "n3" }),
  note(6, "shown", { raw: "62" }),
  note(7, "ended", { specimen_id: "aaa", raw: "curled" }),
];

describe("what was noted at an oven", () => {
  it("is told by the notes that stand, whichever device they came from and in whichever order", () => {
    const sitting = sittingOf(kept, NOTES);
    expect([sitting.rig, sitting.begun, sitting.logged, sitting.every]).toEqual(["r", 5, false, ""]);
    expect(sitting.track).toEqual([{ at: 1, raw: "60" }, { at: 6, raw: "62" }]);
    expect(sitting.seen).toEqual([{ id: "n2", specimen_id: "aaa", field: "noticed_at", at: 2, raw: "60" }]);
    expect(sitting.members.map((m) => [m.code, m.outcome])).toEqual([["AAA", "curled"], ["BBB", null]]);
    expect(sittingOf(kept, [...NOTES].reverse())).toEqual(sitting);
    expect(sittingOf(kept, together(NOTES.slice(0, 2), NOTES.slice(1).map(served)))).toEqual(sitting);
  });
  it("holds each note once", () => {
    expect(together(NOTES, NOTES.map(served))).toEqual(NOTES);
    expect(together([], NOTES.map(served))).toEqual(NOTES);
  });
  it("leaves out whoever was left out, with what was seen of them, until that is taken back", () => {
    const left = [...NOTES, note(8, "left", { specimen_id: "aaa" })];
    expect([sittingOf(kept, left).members.map((m) => [m.code, m.letter]), sittingOf(kept, left).seen]).toEqual([[["BBB", "b"]], []]);
    expect(sittingOf(kept, [...left, note(9, "taken back", { note_id: "n8" })])).toEqual(sittingOf(kept, NOTES));
  });
  it("goes by the latest of how one ended, of the logger and of the step", () => {
    const more = [note(8, "ended", { specimen_id: "aaa" }), note(9, "logger", { raw: "yes" }), note(10, "step", { raw: "0,5" }), note(11, "step", { raw: "1" })];
    const sitting = sittingOf(kept, [...NOTES, ...more]);
    expect([sitting.members[0]?.outcome, sitting.logged, sitting.every]).toEqual([null, true, "1"]);
    expect(sittingOf(kept, [...more, note(12, "logger")]).logged).toBe(false);
  });
  it("takes back what was shown, seen or left last, and nothing twice", () => {
    expect(lastOf(NOTES)?.id).toBe("n6");
    const back = [...NOTES, note(8, "taken back", { note_id: "n6" })];
    expect([lastOf(back)?.id, standing(back).map((n) => n.id)]).toEqual(["n2", ["n1", "n2", "n7"]]);
    expect([lastOf([...NOTES, note(9, "left", { specimen_id: "bbb" })])?.what, lastOf([note(1, "logger")])]).toEqual(["left", null]);
  });
  it("is gone on with at another device as it stands there", () => {
    const oven = { id: "o", test_id: "t", rig_version_id: "r", device: "Oven", started_at: new Date(5).toISOString(), ended_at: null, forgotten: false, who: "Tomas", members, notes: NOTES.map(served) };
    expect(keptOf(oven)).toEqual({ ...kept, notes: NOTES });
    expect(inside(oven).map((m) => m.code)).toEqual(["AAA", "BBB"]);
    expect(inside({ ...oven, notes: [...oven.notes, served(note(8, "left", { specimen_id: "aaa" }))] }).map((m) => m.code)).toEqual(["BBB"]);
  });
});
