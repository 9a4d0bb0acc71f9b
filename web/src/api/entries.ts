import { client, type Schemas, sendCurve, unwrap } from "./client";

/** What can be kept in this browser and sent later: each is sent under ids made here, so that twice is once. */
export type Sending =
  | { kind: "run"; run_id: string; run: Schemas["NewRun"]; curve?: Recording | undefined }
  | { kind: "retract"; run_id: string }
  | { kind: "intake"; body: Schemas["NewIntake"] }
  | { kind: "spool"; body: Schemas["NewSpool"] }
  | { kind: "weighing"; spool_id: string; body: Schemas["NewWeighing"] }
  | { kind: "use"; spool_id: string; body: Schemas["NewFilamentUse"] }
  | { kind: "moves"; body: Schemas["NewStorage"] }
  | { kind: "drying"; body: Schemas["NewDrying"] }
  | { kind: "taken out"; drying_id: string; revision: number; body: Schemas["EndDrying"] }
  | { kind: "oven"; body: Schemas["NewOven"] }
  | { kind: "oven note"; oven_id: string; body: Schemas["OvenNotes"] }
  | { kind: "oven end"; oven_id: string; what: "end" | "forget" | "bring back"; at: string };

/** A recording that has not reached the server yet. */
export interface Recording {
  id: string;
  rig_version_id: string;
  name: string;
  file: Blob;
  /** What a thermometer's logger wrote. */
  log?: boolean | undefined;
}

export const KIND_WORDS: Record<Sending["kind"], string> = {
  run: "entry at the bench",
  retract: "taking back",
  intake: "intake",
  spool: "new spool",
  weighing: "weighing",
  use: "what a print took",
  moves: "storage",
  drying: "into the dryer",
  "taken out": "out of the dryer",
  oven: "into the oven",
  "oven note": "noted at the oven",
  "oven end": "end at the oven",
};

/** What an entry is about, by id: what is about the same goes in the order in which it was entered. */
export function subjectsOf(entry: Sending): string[] {
  switch (entry.kind) {
    case "run":
    case "retract":
      return [entry.run_id];
    case "intake":
      return [entry.body.spool_id ?? entry.body.spool?.id ?? entry.body.id];
    case "spool":
      return [entry.body.id];
    case "weighing":
    case "use":
      return [entry.spool_id];
    case "moves":
      return entry.body.moves.map((m) => m.spool_id);
    case "drying":
      return [entry.body.id, ...entry.body.members.map((m) => m.spool_id)];
    case "taken out":
      return [entry.drying_id, ...(entry.body.members ?? []).map((m) => m.spool_id)];
    case "oven":
      return [entry.body.id];
    case "oven note":
    case "oven end":
      return [entry.oven_id];
  }
}

/** Send it under the name of who entered it; what the server refuses is thrown. A run comes back as it stands now. */
export async function send(entry: Sending, headers: Record<string, string>): Promise<Schemas["RunView"] | null> {
  switch (entry.kind) {
    case "run":
      if (entry.curve) await sendCurve(entry.curve.id, entry.curve.rig_version_id, entry.curve.file, entry.curve.name, entry.curve.log ?? false, headers);
      return unwrap<Schemas["RunView"]>(await client.POST("/api/runs", { body: entry.run, headers }));
    case "retract":
      return unwrap<Schemas["RunView"]>(await client.PUT("/api/runs/{run_id}/retraction", { params: { path: { run_id: entry.run_id } }, headers }));
    case "oven":
    case "oven note":
    case "oven end":
      await sendOven(entry, headers);
      return null;
    default:
      await sendStock(entry, headers);
      return null;
  }
}

type Oven = Extract<Sending, { kind: "oven" | "oven note" | "oven end" }>;

function sendOven(entry: Oven, headers: Record<string, string>): Promise<unknown> {
  if (entry.kind === "oven") return client.POST("/api/ovens", { body: entry.body, headers });
  const path = { oven_id: entry.oven_id };
  if (entry.kind === "oven note") return client.POST("/api/ovens/{oven_id}/notes", { params: { path }, body: entry.body, headers });
  if (entry.what === "end") return client.PUT("/api/ovens/{oven_id}/end", { params: { path, query: { at: entry.at } }, headers });
  return client.PUT("/api/ovens/{oven_id}/retraction", { params: { path, query: { back: entry.what === "bring back" } }, headers });
}

function sendStock(entry: Exclude<Sending, { kind: "run" | "retract" } | Oven>, headers: Record<string, string>): Promise<unknown> {
  switch (entry.kind) {
    case "intake":
      return client.POST("/api/intakes", { body: entry.body, headers });
    case "spool":
      return client.POST("/api/spools", { body: entry.body, headers });
    case "weighing":
      return client.POST("/api/spools/{spool_id}/weighings", { params: { path: { spool_id: entry.spool_id } }, body: entry.body, headers });
    case "use":
      return client.POST("/api/spools/{spool_id}/uses", { params: { path: { spool_id: entry.spool_id } }, body: entry.body, headers });
    case "moves":
      return client.POST("/api/storage", { body: entry.body, headers });
    case "drying":
      return client.POST("/api/dryings", { body: entry.body, headers });
    case "taken out":
      return client.PUT("/api/dryings/{drying_id}/end", { params: { path: { drying_id: entry.drying_id }, header: { "if-match": `"${String(entry.revision)}"` } }, body: entry.body, headers });
  }
}

/** One thing a person typed or read off a clock, and the entry with another in its place. */
export interface Typed {
  /** The server's name of the field and the row in it, from 1, as its refusals and questions give them. */
  field: string;
  row: number | null;
  label: string;
  raw: string;
  moment?: boolean;
  /** Null where it is shown and not mended here. */
  put: ((raw: string) => Sending) | null;
}

/** Everything that was typed for an entry, in words and mendable; which fields there are does not hang on what stands in them. */
export function typedOf(entry: Sending): Typed[] {
  switch (entry.kind) {
    case "run": {
      const { run } = entry;
      const runWith = (change: Partial<Schemas["NewRun"]>): Sending => ({ ...entry, run: { ...run, ...change } });
      const readings = (run.readings ?? []).map((r, i): Typed => ({
        field: r.field,
        row: r.position,
        label: `${r.field.replaceAll("_", " ")}${(run.readings ?? []).filter((o) => o.field === r.field).length > 1 ? ` ${String(r.position + 1)}` : ""}`,
        raw: r.raw,
        put: (raw) => runWith({ readings: (run.readings ?? []).map((o, j) => (j === i ? { ...o, raw } : o)) }),
      }));
      const told = [
        ["recording", entry.curve?.name],
        ["how it ended", run.outcome],
        ["left out", run.validity === "left_out" ? (run.validity_reason ?? "yes") : null],
      ].flatMap(([label, raw]): Typed[] => (label && raw ? [{ field: label, row: null, label, raw, put: null }] : []));
      return [...readings, ...told, at("happened_at", run.happened_at, (raw) => runWith({ happened_at: raw }))];
    }
    case "retract":
      return [];
    case "intake": {
      const { body } = entry;
      const withBody = (change: Partial<Schemas["NewIntake"]>): Sending => ({ ...entry, body: { ...body, ...change } });
      return [
        ...(["gross", "empty"] as const).map((f) => text(f, `${f === "gross" ? "spool and filament" : "empty spool"}, g`, body[f] ?? "", (raw) => withBody({ [f]: raw }))),
        ...(body.diameters ?? []).map((d, i): Typed => ({ field: "diameters", row: i + 1, label: `diameter ${String(i + 1)}, mm`, raw: d, put: (raw) => withBody({ diameters: (body.diameters ?? []).map((o, j) => (i === j ? raw : o)) }) })),
        text("decision", "decision", body.decision ?? "as proposed", null),
        text("note", "why", body.note ?? "", (note) => withBody({ note })),
        text("place", "goes to", body.place ?? "", (place) => withBody({ place })),
        ...(body.spool ? [text("received_on", "received", body.spool.received_on, (received_on) => withBody({ ...(body.spool ? { spool: { ...body.spool, received_on } } : {}) }))] : []),
        at("happened_at", body.happened_at, (happened_at) => withBody({ happened_at })),
      ];
    }
    case "spool":
      return [
        text("lot", "lot", entry.body.lot ?? "", (lot) => ({ ...entry, body: { ...entry.body, lot } })),
        text("received_on", "received", entry.body.received_on, (received_on) => ({ ...entry, body: { ...entry.body, received_on } })),
      ];
    case "weighing":
      return [text("raw", "on the scales, g", entry.body.raw, (raw) => ({ ...entry, body: { ...entry.body, raw } })), at("at", entry.body.at, (raw) => ({ ...entry, body: { ...entry.body, at: raw } }))];
    case "use":
      return [
        text("raw", "a print took, g", entry.body.raw, (raw) => ({ ...entry, body: { ...entry.body, raw } })),
        text("what", "what was printed", entry.body.what ?? "", (what) => ({ ...entry, body: { ...entry.body, what } })),
        at("at", entry.body.at, (raw) => ({ ...entry, body: { ...entry.body, at: raw } })),
      ];
    case "moves":
      return [
        text("storage", "kind of place", entry.body.storage, null),
        text("place", "place", entry.body.place ?? "", (place) => ({ ...entry, body: { ...entry.body, place } })),
        number("humidity", "humidity, %", entry.body.humidity ?? null, (humidity) => ({ ...entry, body: { ...entry.body, humidity } })),
        at("at", entry.body.at, (raw) => ({ ...entry, body: { ...entry.body, at: raw } })),
      ];
    case "drying": {
      const { body } = entry;
      const withBody = (change: Partial<Schemas["NewDrying"]>): Sending => ({ ...entry, body: { ...body, ...change } });
      return [
        text("device", "dryer", body.device, (device) => withBody({ device })),
        number("temperature", "at, °C", body.temperature, (t) => withBody({ temperature: t ?? Number.NaN })),
        number("hours", "for, h", body.hours, (h) => withBody({ hours: h ?? Number.NaN })),
        ...masses(body.members, "mass before, g", (members) => withBody({ members })),
        at("started_at", body.started_at, (started_at) => withBody({ started_at })),
      ];
    }
    case "taken out": {
      const { body } = entry;
      const withBody = (change: Partial<Schemas["EndDrying"]>): Sending => ({ ...entry, body: { ...body, ...change } });
      return [
        ...masses(body.members ?? [], "mass after, g", (members) => withBody({ members })),
        text("place", "goes to", body.place ?? "", (place) => withBody({ place })),
        at("ended_at", body.ended_at, (ended_at) => withBody({ ended_at })),
      ];
    }
    case "oven":
    case "oven note":
    case "oven end":
      return typedAtOven(entry);
  }
}

function typedAtOven(entry: Oven): Typed[] {
  if (entry.kind === "oven") return [at("started_at", entry.body.started_at, (started_at) => ({ ...entry, body: { ...entry.body, started_at } }))];
  if (entry.kind === "oven end") return [text("what", "what was done", { end: "taken out", forget: "forgotten", "bring back": "brought back" }[entry.what], null)];
  const { notes } = entry.body;
  const withRaw = (i: number, raw: string): Sending => ({ ...entry, body: { notes: notes.map((o, j) => (i === j ? { ...o, raw } : o)) } });
  return notes.map((n, i): Typed => ({ field: "raw", row: i + 1, label: NOTED[n.what], raw: n.raw, put: n.what === "shown" ? (raw) => withRaw(i, raw) : null }));
}

const NOTED: Record<Schemas["NewOvenNote"]["what"], string> = {
  shown: "the oven showed",
  seen: "seen at",
  ended: "how it ended",
  left: "left out",
  logger: "a logger writes along",
  step: "looked every, K",
  "taken back": "taken back",
};

type Member = Schemas["NewDrying"]["members"][number];

function masses(members: Member[], label: string, put: (members: Member[]) => Sending): Typed[] {
  return members.map((m, i) => ({ field: "members", row: i + 1, label: members.length > 1 ? `${label} (${String(i + 1)})` : label, raw: m.raw ?? "", put: (raw) => put(members.map((o, j) => (i === j ? { ...o, raw } : o))) }));
}

function text(field: string, label: string, raw: string, put: Typed["put"]): Typed {
  return { field, row: null, label, raw, put };
}

function number(field: string, label: string, value: number | null, put: (value: number | null) => Sending): Typed {
  return { field, row: null, label, raw: value === null ? "" : String(value), put: (raw) => put(raw.trim() === "" ? null : Number(raw.replace(",", "."))) };
}

function at(field: string, iso: string, put: (iso: string) => Sending): Typed {
  return { field, row: null, label: "when", raw: iso, moment: true, put };
}

/** The entry with a question of the server's answered by "it is right as entered". */
export function confirmed(entry: Sending, key: string): Sending {
  const more = <T extends { confirmed: string[] }>(body: T): T => ({ ...body, confirmed: [...body.confirmed, key] });
  if (entry.kind === "run") return { ...entry, run: more(entry.run) };
  if ("body" in entry && "confirmed" in entry.body) return { ...entry, body: more(entry.body) } as Sending;
  return entry;
}
