import { describe, expect, it } from "vitest";

import type { Schemas } from "./client";
import { confirmed, KIND_WORDS, type Sending, subjectsOf, typedOf } from "./entries";

const at = "2026-01-05T09:00:00Z";
const members = [
  { spool_id: "s1", raw: "812" },
  { spool_id: "s2", raw: "640" },
];
const looked = { seal: "", desiccant: "", winding: "", snap: "", snap_known_good: "", popping: "", diameters: ["1.75", "17.4"], gross: "980", empty: "214", confirmed: [] } as const;
const spool: Schemas["NewSpool"] = { id: "s1", material_id: "m", lot: "7", received_on: "2026-01-04", body: "", loose_end: "", note: "" };
const readings = [0, 1].map((position) => ({ id: `r${String(position)}`, field: "width", position, raw: "502" }));

/** One of every kind. */
const ALL: Sending[] = [
  { kind: "run", run_id: "a", run: { id: "a", subject_id: "x", readings, happened_at: at, confirmed: [], outcome: "grip" } as unknown as Schemas["NewRun"], curve: { id: "c", rig_version_id: "v", name: "pull.csv", file: new Blob([]) } },
  { kind: "retract", run_id: "a" },
  { kind: "intake", body: { ...looked, diameters: [...looked.diameters], confirmed: [], id: "i", spool, happened_at: at, note: "torn", storage: "open", place: "" } },
  { kind: "spool", body: spool },
  { kind: "weighing", spool_id: "s1", body: { id: "w", raw: "812", at, confirmed: [] } },
  { kind: "use", spool_id: "s1", body: { id: "u", raw: "12", at, what: "bars", confirmed: [] } },
  { kind: "moves", body: { moves: [{ id: "m1", spool_id: "s1" }, { id: "m2", spool_id: "s2" }], storage: "dry box", place: "Box A", humidity: 12, at } }, // prettier-ignore
  { kind: "drying", body: { id: "d", device: "Loft dryer", temperature: 65, hours: 8, started_at: at, members, note: "", confirmed: [] } },
  { kind: "taken out", drying_id: "d", revision: 3, body: { ended_at: at, members, storage: "dry box", place: "Box A", confirmed: [] } },
  { kind: "oven", body: { id: "o", test_id: "t", rig_version_id: "v", started_at: at, members: [{ specimen_id: "x", run_id: "a" }] } },
  { kind: "oven note", oven_id: "o", body: { notes: [{ id: "n", what: "shown", specimen_id: null, field: null, raw: "62,5", note_id: null, at }, { id: "m", what: "seen", specimen_id: "x", field: "noticed_at", raw: "62,5", note_id: null, at }] } },
  { kind: "oven end", oven_id: "o", what: "end", at },
];

it("knows every kind", () => {
  expect(ALL.map((e) => e.kind)).toEqual(Object.keys(KIND_WORDS));
});

describe.each(ALL.map((e) => [e.kind, e] as const))("%s", (_, entry) => {
  it("shows each thing as it was typed, and another in its place changes that alone", () => {
    const shown = typedOf(entry);
    shown.forEach((field, i) => {
      if (!field.put) return;
      const wanted = field.moment ? "2026-02-01T10:00:00.000Z" : field.field === "humidity" || field.field === "temperature" || field.field === "hours" ? "77" : "another";
      const after = typedOf(field.put(wanted)).map((f) => f.raw);
      expect(after).toEqual(shown.map((f, j) => (j === i ? wanted : f.raw)));
    });
    // what is not mended keeps its ids, so that twice is once
    const first = shown.find((f) => f.put);
    expect(subjectsOf(first?.put?.("1") ?? entry)).toEqual(subjectsOf(entry));
  });

  it("answers a question without touching what was typed", () => {
    const after = confirmed(entry, "key");
    expect(typedOf(after)).toMatchObject(typedOf(entry).map((f) => ({ label: f.label, raw: f.raw })));
    expect(JSON.stringify(after).includes('"confirmed":["key"]')).toBe("confirmed" in ("body" in entry ? entry.body : "run" in entry ? entry.run : {}));
  });
});

it("shows the same fields whatever stands in them, so that an emptied one moves no other", () => {
  for (const entry of ALL) {
    const shown = typedOf(entry);
    const emptied = shown.reduce((now, f, i) => (f.put && !f.moment ? (typedOf(now)[i]?.put?.("") ?? now) : now), entry);
    expect(typedOf(emptied).map((f) => f.label)).toEqual(shown.map((f) => f.label));
  }
});

it("says what an entry is about, so that one spool's entries keep their order", () => {
  expect(ALL.map(subjectsOf)).toEqual([["a"], ["a"], ["s1"], ["s1"], ["s1"], ["s1"], ["s1", "s2"], ["d", "s1", "s2"], ["d", "s1", "s2"], ["o"], ["o"], ["o"]]);
});

it("numbers readings of one field, and shows what is not mended here", () => {
  expect(typedOf(ALL[0] as Sending).map((f) => f.label)).toEqual(["width 1", "width 2", "recording", "how it ended", "when"]);
});
