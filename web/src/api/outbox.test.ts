import "fake-indexeddb/auto";

import { afterEach, beforeEach, expect, test, vi } from "vitest";

/** A browser as far as the outbox needs one: an origin for addresses and a local storage. */
vi.hoisted(() => {
  const kept = new Map<string, string>();
  const page = class extends Request {
    constructor(address: string | Request, init?: RequestInit) {
      super(typeof address === "string" ? `http://127.0.0.1${address}` : address, init);
    }
  };
  Object.assign(globalThis, { Request: page, localStorage: { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => kept.set(k, v) } });
});

import type { Schemas } from "./client";
import { type Recording, typedOf } from "./entries";
import { type NewEntry, Outbox, type OutboxEntry } from "./outbox";
import { setPerson } from "./person";

interface Asked {
  verb: string;
  path: string;
  who: string | null;
  body: string;
}
type Answer = Response | Error | Promise<Response>;

let asked: Asked[] = [];
let answer: (request: Asked) => Answer;
let name = 0;
const boxes: Outbox[] = [];

const fine = (): Response => Response.json({ id: "r" }, { status: 201 });
const refuse = (status: number, detail: string): Response => Response.json({ detail }, { status });
/** An outbox over the store of this test; another one over it is the same browser, opened again. */
const opened = (): Outbox => {
  const box = new Outbox(`test-${String(name)}`);
  boxes.push(box);
  return box;
};
const run = (id: string, curve?: Recording): NewEntry => ({
  kind: "run", run_id: id, code: id.toUpperCase(), run: { id, readings: [{ id: "r", field: "width", position: 0, raw: "502" }] } as unknown as Schemas["NewRun"], curve, added_at: 0,
});
const weighing = (spool: string, raw: string): NewEntry => ({ kind: "weighing", spool_id: spool, code: "S1", added_at: 0, body: { id: `w-${raw}`, raw, at: "2026-01-05T09:00:00Z", confirmed: [] } });
const subject = (e: OutboxEntry) => (e.kind === "run" || e.kind === "retract" ? e.run_id : e.code);
const seqOf = (e: OutboxEntry | undefined) => e?.seq ?? -1;
/** The locks of a browser with several tabs: one at a time, in the order asked. */
const oneLock = () => {
  let turn: Promise<unknown> = Promise.resolve();
  return { request: (_: string, act: () => Promise<unknown>) => (turn = turn.then(act, act)) };
};
const settled = async (box: Outbox): Promise<void> => {
  await box.flush();
  await box.refresh();
};
const sent = (): string[] => asked.map((a) => `${a.verb} ${a.path}`);
const ids = (): string[] => asked.filter((a) => a.verb === "POST").map((a) => (JSON.parse(a.body) as { id: string }).id);

beforeEach(() => {
  asked = [];
  answer = fine;
  name += 1;
  setPerson("Ilse");
  vi.stubGlobal("fetch", async (what: Request | string, init?: RequestInit) => {
    const request = typeof what === "string" ? new Request(what, init) : what;
    const one = { verb: request.method, path: new URL(request.url).pathname, who: request.headers.get("Assayer-Person"), body: await request.text() };
    asked.push(one);
    const given = answer(one);
    if (given instanceof Error) throw given;
    return given;
  });
});

afterEach(async () => {
  // nothing of this test goes on trying behind the next one
  answer = () => refuse(422, "over");
  await Promise.all(boxes.splice(0).map((box) => box.flush()));
});

test("what is accepted without a network stays and is sent once when there is one again", async () => {
  answer = () => new TypeError("network");
  const box = opened();
  const told: string[] = [];
  box.onSent((entry) => told.push(subject(entry)));
  await box.add(run("a"));
  await settled(box);
  expect(box.snapshot()).toMatchObject({ waiting: 1, refused: [], offline: true });
  expect(told).toEqual([]);
  answer = fine;
  asked = [];
  await settled(box);
  expect(box.snapshot()).toEqual({ waiting: 0, entries: [], refused: [], offline: false });
  expect([ids(), told]).toEqual([["a"], ["a"]]);
  await settled(box);
  expect(ids(), "sent once").toEqual(["a"]);
});

test("it tries again by itself", async () => {
  let tries = 0;
  answer = () => (++tries < 2 ? new TypeError("network") : fine());
  const box = opened();
  await box.add(run("a"));
  await vi.waitFor(() => expect(box.snapshot().waiting).toBe(0), 3000);
  expect(tries).toBe(2);
});

test("a browser that was closed sends what waited, oldest first, under the name of who entered it", async () => {
  answer = () => new TypeError("network");
  const before = opened();
  await before.add(run("a"));
  setPerson("Zoë");
  await before.add(run("b"));
  await settled(before);
  asked = [];
  answer = fine;
  setPerson("Tomas");
  await settled(opened());
  expect(ids()).toEqual(["a", "b"]);
  expect(asked.map((a) => a.who)).toEqual(["Ilse", "Zo%C3%AB"]);
});

test("what the server refuses waits for a person with its words, and holds up nobody", async () => {
  answer = (a) => (a.body.includes('"a"') ? refuse(409, "tested already") : fine());
  const box = opened();
  await box.add(run("a"));
  await box.add(run("b"));
  await settled(box);
  const { waiting, refused } = box.snapshot();
  expect([waiting, refused.map((e) => [subject(e), e.refused])]).toEqual([0, [["a", "tested already"]]]);
  asked = [];
  await settled(box);
  expect(sent(), "it is not sent over and over").toEqual([]);
  await box.keep(seqOf(refused[0]));
  expect(box.snapshot().refused.map((e) => e.kept)).toEqual([true]);
  await box.drop(seqOf(refused[0]));
  expect(box.snapshot()).toMatchObject({ refused: [], waiting: 0 });
  // dropped by mistake: it stands there a week, and is sent again once it is put back
  expect(box.snapshot().entries.map(subject)).toEqual(["a"]);
  answer = fine;
  await box.putBack(seqOf(refused[0]));
  expect([ids(), box.snapshot().entries]).toEqual([["a"], []]);
});

test("a refused entry is sent as mended, under the name of who made it, and what it holds back follows", async () => {
  answer = (a) => (a.body.includes('"502"') ? refuse(422, "width: 502 mm is not a width") : fine());
  const box = opened();
  await box.add(run("a"));
  await box.add({ kind: "retract", run_id: "a", code: "A", added_at: 0 });
  await box.add(run("b"));
  await settled(box);
  // b is refused alike; the taking back waits behind its entry
  expect([box.snapshot().refused.map(subject), box.snapshot().waiting]).toEqual([["a", "b"], 1]);
  const first = box.snapshot().refused[0];
  const width = first && typedOf(first).find((f) => f.field === "width");
  asked = [];
  setPerson("Tomas");
  await box.mend(seqOf(first), width?.put?.("5.02") as OutboxEntry);
  expect(sent()).toEqual(["POST /api/runs", "PUT /api/runs/a/retraction"]);
  expect(asked[0]?.body).toContain('"raw":"5.02"');
  expect(asked[0]?.who).toBe("Ilse");
  expect(box.snapshot().refused.map(subject)).toEqual(["b"]);
});

test("dropping an entry drops what only takes it back", async () => {
  answer = () => refuse(409, "tested already");
  const box = opened();
  await box.add(run("a"));
  await box.add({ kind: "retract", run_id: "a", code: "A", added_at: 0 });
  await settled(box);
  await box.drop(seqOf(box.snapshot().refused[0]));
  expect(box.snapshot()).toMatchObject({ refused: [], waiting: 0 });
});

test("what the server fails on does not hold up the others, and is tried again by itself", async () => {
  let tries = 0;
  answer = (a) => (a.path.includes("/s1/") && ++tries < 2 ? refuse(500, "broken") : fine());
  const box = opened();
  await box.add(weighing("s1", "812"));
  await box.add(weighing("s1", "790"));
  await box.add(weighing("s2", "640"));
  await vi.waitFor(() => expect(box.snapshot().entries).toHaveLength(0), 3000);
  // of one spool in the order they were read; the other spool did not wait for it
  expect(asked.map((a) => (JSON.parse(a.body) as { raw: string }).raw)).toEqual(["812", "640", "812", "790"]);
});

test("a form whose person is there is told what became of its entry", async () => {
  const box = opened();
  expect(await box.deliver(weighing("s1", "812"))).toBe("sent");
  answer = () => Response.json({ detail: "question", questions: [{ key: "raw=81", field: "raw", text: "81 g?" }] }, { status: 422 });
  await expect(box.deliver(weighing("s1", "81"))).rejects.toMatchObject({ status: 422, body: { questions: [{ key: "raw=81" }] } });
  expect(box.snapshot().entries, "the form still has it").toEqual([]);
  answer = () => new TypeError("network");
  expect(await box.deliver(weighing("s1", "799"))).toBe("kept");
  expect(box.snapshot()).toMatchObject({ waiting: 1, offline: true });
});

test("taking back holds across tabs: an entry on its way from another tab decides first", async () => {
  let end: (response: Response) => void = () => undefined;
  answer = () => new Promise<Response>((resolve) => (end = resolve));
  const locks = oneLock();
  vi.stubGlobal("navigator", { locks });
  const [here, there] = [opened(), opened()];
  await there.add(run("a"));
  await vi.waitFor(() => expect(asked).toHaveLength(1));
  const withdrawn = here.withdraw("a");
  end(fine());
  expect(await withdrawn).toBe(false);
  vi.unstubAllGlobals();
});

test.each([
  [500, false],
  [502, true],
  [503, true],
  [507, false],
])("with %i the server is at fault: the entry stays", async (status, offline) => {
  answer = () => refuse(status, "disk full");
  const box = opened();
  await box.add(run("a"));
  await settled(box);
  expect(box.snapshot()).toMatchObject({ waiting: 1, refused: [], offline });
  expect(box.snapshot().entries[0]?.failed).toBe(offline ? undefined : "disk full");
  answer = fine;
  await settled(box);
  expect(box.snapshot().waiting).toBe(0);
});

test("an entry that has not left is withdrawn and never sent; one that has is not", async () => {
  answer = () => new TypeError("network");
  const box = opened();
  await box.add(run("a"));
  await box.add(run("b"));
  await settled(box);
  asked = [];
  expect(await box.withdraw("b")).toBe(true);
  answer = fine;
  await settled(box);
  expect(ids()).toEqual(["a"]);
  expect(await box.withdraw("a")).toBe(false);
});

test.each([
  ["arrives", true],
  ["fails", false],
])("an entry on its way that %s decides whether it can still be withdrawn", async (_, arrives) => {
  let end: (response: Response) => void = () => undefined;
  answer = () => new Promise<Response>((resolve) => (end = resolve));
  const box = opened();
  await box.add(run("a"));
  await vi.waitFor(() => expect(asked).toHaveLength(1));
  const withdrawn = box.withdraw("a");
  end(arrives ? fine() : refuse(503, "starting"));
  expect(await withdrawn).toBe(!arrives);
});

test("an entry is taken back after the entry it takes back", async () => {
  const box = opened();
  answer = () => new TypeError("network");
  await box.add(run("a"));
  await box.add({ kind: "retract", run_id: "a", code: "A", added_at: 0 });
  await settled(box);
  asked = [];
  answer = fine;
  await settled(box);
  expect(sent()).toEqual(["POST /api/runs", "PUT /api/runs/a/retraction"]);
});

test("a recording goes before its entry, and the entry not without it", async () => {
  const curve = { id: "c", rig_version_id: "v", name: "pull.csv", file: new Blob(["1;2"]) };
  answer = (a) => (a.verb === "PUT" ? new TypeError("network") : fine());
  const box = opened();
  await box.add(run("a", curve));
  await settled(box);
  expect([ids(), box.snapshot().waiting]).toEqual([[], 1]);
  asked = [];
  answer = fine;
  setPerson("Tomas");
  await settled(box);
  expect(sent()).toEqual(["PUT /api/curves/c", "POST /api/runs"]);
  expect(asked.map((a) => a.who), "both are Ilse's").toEqual(["Ilse", "Ilse"]);
});
