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
import { Outbox, type OutboxEntry } from "./outbox";
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
const run = (id: string, more: Partial<OutboxEntry> = {}): Omit<OutboxEntry, "by"> => ({
  kind: "run", run_id: id, code: id.toUpperCase(), run: { id, readings: [] } as unknown as Schemas["NewRun"], added_at: 0, ...more,
});
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
  box.onSent((entry) => told.push(entry.run_id));
  await box.add(run("a"));
  await settled(box);
  expect(box.snapshot()).toEqual({ waiting: 1, refused: [], offline: true });
  expect(told).toEqual([]);
  answer = fine;
  asked = [];
  await settled(box);
  expect(box.snapshot()).toEqual({ waiting: 0, refused: [], offline: false });
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
  expect([waiting, refused.map((e) => [e.run_id, e.refused])]).toEqual([0, [["a", "tested already"]]]);
  asked = [];
  await settled(box);
  expect(sent(), "it is not sent over and over").toEqual([]);
  await box.discard(refused[0]?.seq ?? -1);
  expect(box.snapshot().refused).toEqual([]);
});

test.each([500, 502, 503, 507])("with %i the server is at fault: the entry stays", async (status) => {
  answer = () => refuse(status, "disk full");
  const box = opened();
  await box.add(run("a"));
  await settled(box);
  expect(box.snapshot()).toEqual({ waiting: 1, refused: [], offline: true });
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
  await box.add(run("a", { curve }));
  await settled(box);
  expect([ids(), box.snapshot().waiting]).toEqual([[], 1]);
  asked = [];
  answer = fine;
  setPerson("Tomas");
  await settled(box);
  expect(sent()).toEqual(["PUT /api/curves/c", "POST /api/runs"]);
  expect(asked.map((a) => a.who), "both are Ilse's").toEqual(["Ilse", "Ilse"]);
});
