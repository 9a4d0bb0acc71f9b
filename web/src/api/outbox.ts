import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { useSyncExternalStore } from "react";

import { identity, messageOf, Problem, type Schemas } from "./client";
import { send, type Sending, subjectsOf } from "./entries";

/** How an entry stands with the server, and who made it. */
interface Standing {
  seq?: number;
  /** What a person knows it by: the code of its specimen or spools. */
  code: string;
  added_at: number;
  /** Who entered it, and in which zone: it is sent with their name, whoever sits here by then. */
  by: Record<string, string>;
  /** Why the server refused it; it then waits for a person. */
  refused?: string | undefined;
  /** What the server asks about it, and which field it means. */
  problem?: Partial<Schemas["Problem"]> | undefined;
  /** The server failed on it, and it is tried again. */
  failed?: string | undefined;
  /** A person has seen that it was refused, and keeps it here for now. */
  kept?: boolean | undefined;
  /** Dropped by a person: it is not sent, and can be put back for a while. */
  dropped_at?: number | undefined;
}

/**
 * What was accepted on the bench or in stock and is on its way to the server.
 *
 * An entry is written to IndexedDB before anything else happens, so a dead network, a killed server or a
 * closed browser loses nothing. Ids are made here: the server takes the same entry twice as one.
 */
export type OutboxEntry = Sending & Standing;
type Distribute<T> = T extends unknown ? Omit<T, keyof Standing> & Pick<Standing, "code" | "added_at"> : never;
export type NewEntry = Distribute<OutboxEntry>;

interface OutboxSchema extends DBSchema {
  entries: { key: number; value: OutboxEntry };
}

export interface OutboxState {
  /** How many are on their way; those that the server failed on are among them. */
  waiting: number;
  /** All that is kept here, oldest first, dropped ones too. */
  entries: OutboxEntry[];
  refused: OutboxEntry[];
  offline: boolean;
}

/** What became of an entry that a form gave. */
export type Went = "sent" | "kept";
type Sent = (entry: OutboxEntry, run: Schemas["RunView"] | null) => void;

const LOCK = "assayer-outbox";
/** How long a dropped entry can be put back. */
const DROPPED_STAYS = 7 * 24 * 3_600_000;
/** A person who waits for an answer is told after this that the entry is kept. */
const PATIENCE = 6_000;

export class Outbox {
  private readonly db: Promise<IDBPDatabase<OutboxSchema>>;
  private state: OutboxState = { waiting: 0, entries: [], refused: [], offline: false };
  private readonly listeners = new Set<() => void>();
  private readonly sentListeners = new Set<Sent>();
  private readonly tabs: BroadcastChannel | null;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private delay = 500;
  private sending: Promise<void> | null = null;
  private turn: Promise<unknown> = Promise.resolve();

  constructor(name = "assayer") {
    this.db = openDB<OutboxSchema>(name, 1, {
      upgrade(db) {
        db.createObjectStore("entries", { keyPath: "seq", autoIncrement: true });
      },
    });
    this.tabs = typeof window !== "undefined" && "BroadcastChannel" in window ? new BroadcastChannel(LOCK) : null;
    if (this.tabs) this.tabs.onmessage = () => void this.read();
    if (typeof window !== "undefined") window.addEventListener("online", () => void this.flush());
  }

  /** Keep an entry durably; resolves once it cannot be lost any more. Sending goes on by itself. */
  async add(given: NewEntry): Promise<number> {
    const entry = { ...given, by: identity() } as OutboxEntry;
    const db = await this.db;
    const transaction = db.transaction("entries", "readwrite", { durability: "strict" });
    const [seq] = await Promise.all([transaction.store.add(entry), transaction.done]);
    await this.refresh();
    void this.flush();
    return seq;
  }

  /**
   * Keep an entry and wait for what the server says of it, for a form whose person is there: "sent", or
   * "kept" where it could not be asked. What is refused is thrown and not kept: the form still holds it.
   */
  async deliver(given: NewEntry): Promise<Went> {
    const seq = await this.add(given);
    await Promise.race([this.flush().then(() => this.flush()), new Promise((resolve) => setTimeout(resolve, PATIENCE))]);
    const there = await (await this.db).get("entries", seq);
    if (!there) return "sent";
    if (!there.refused) return "kept";
    await this.remove(seq);
    throw new Problem(there.problem?.status ?? 422, { detail: there.refused, ...there.problem });
  }

  /** Take back the latest entry of a run that has not been sent; false if it has left already. */
  withdraw(runId: string): Promise<boolean> {
    // an entry on its way, from whichever tab, must first arrive or fail: only then it is known which it is
    return this.locked(async () => {
      const db = await this.db;
      const found = (await db.getAll("entries")).findLast((e) => e.kind === "run" && e.run_id === runId && !e.dropped_at);
      if (found?.seq === undefined) return false;
      await db.delete("entries", found.seq);
      await this.refresh();
      return true;
    });
  }

  /** What a person decides about an entry that was refused: send it as mended, keep it here, drop it, put it back. */
  async mend(seq: number, sending: Sending): Promise<void> {
    await this.change(seq, (e) => ({ ...e, ...sending, refused: undefined, problem: undefined, failed: undefined, kept: undefined }));
    await this.flush();
  }

  keep(seq: number): Promise<void> {
    return this.change(seq, (e) => ({ ...e, kept: true }));
  }

  /** What follows an entry and only takes it back goes with it. */
  async drop(seq: number): Promise<void> {
    const now = Date.now();
    const all = await (await this.db).getAll("entries");
    const first = all.find((e) => e.seq === seq);
    const gone = all.filter((e) => e.seq === seq || (first?.kind === "run" && e.kind === "retract" && e.run_id === first.run_id && (e.seq ?? 0) > seq));
    for (const one of gone) await this.change(one.seq ?? -1, (e) => ({ ...e, dropped_at: now }));
    void this.flush();
  }

  async putBack(seq: number): Promise<void> {
    await this.change(seq, (e) => ({ ...e, dropped_at: undefined, kept: undefined, refused: undefined, problem: undefined }));
    await this.flush();
  }

  private change(seq: number, how: (entry: OutboxEntry) => OutboxEntry): Promise<void> {
    return this.locked(async () => {
      const db = await this.db;
      const there = await db.get("entries", seq);
      if (there) await db.put("entries", how(there));
      await this.refresh();
    });
  }

  private async remove(seq: number): Promise<void> {
    await (await this.db).delete("entries", seq);
    await this.refresh();
  }

  /** One at a time, in every tab of this browser. */
  private locked<T>(act: () => Promise<T>): Promise<T> {
    if (typeof navigator !== "undefined" && "locks" in navigator) return navigator.locks.request(LOCK, act) as Promise<T>;
    const mine = this.turn.then(act, act);
    this.turn = mine.catch(() => undefined);
    return mine;
  }

  /** Send what waits, oldest first. */
  flush(): Promise<void> {
    if (this.sending) return this.sending;
    clearTimeout(this.timer);
    this.sending = this.sendAll().finally(() => {
      this.sending = null;
    });
    return this.sending;
  }

  private async sendAll(): Promise<void> {
    const tried = new Set<number>();
    let outcome: Outcome;
    do outcome = await this.locked(() => this.sendNext(tried));
    while (outcome === "more");
    if (outcome === "unreachable" || tried.size) {
      clearTimeout(this.timer);
      this.timer = setTimeout(() => void this.flush(), this.delay);
      this.delay = Math.min(this.delay * 2, 10_000);
    }
    await this.read();
  }

  /** The oldest entry that nothing holds back; what the server fails on is `tried` and lets the others pass. */
  private async sendNext(tried: Set<number>): Promise<Outcome> {
    const db = await this.db;
    const next = nextOf(await db.getAll("entries"), tried);
    if (next?.seq === undefined) return "none";
    try {
      const run = await send(next, next.by);
      await db.delete("entries", next.seq);
      this.delay = 500;
      this.setState({ offline: false });
      await this.refresh();
      this.sentListeners.forEach((tell) => tell(next, run));
      return "more";
    } catch (error) {
      if (error instanceof Problem && error.unreachable) {
        this.setState({ offline: true });
        return "unreachable";
      }
      const why = messageOf(error);
      if (error instanceof Problem && error.status < 500) await db.put("entries", { ...next, refused: why, problem: error.body, failed: undefined });
      else {
        tried.add(next.seq);
        await db.put("entries", { ...next, failed: why });
      }
      this.setState({ offline: false });
      await this.refresh();
      return "more";
    }
  }

  /** Read the state from the store, at start and after every change; other tabs are told. */
  async refresh(): Promise<void> {
    await this.read();
    this.tabs?.postMessage("changed");
  }

  private async read(): Promise<void> {
    const db = await this.db;
    const all = await db.getAll("entries");
    const entries = all.filter((e) => !e.dropped_at || e.dropped_at > Date.now() - DROPPED_STAYS);
    for (const old of all) if (!entries.includes(old) && old.seq !== undefined) await db.delete("entries", old.seq);
    const standing = entries.filter((e) => !e.dropped_at);
    this.setState({ entries, waiting: standing.filter((e) => !e.refused).length, refused: standing.filter((e) => e.refused) });
  }

  private setState(change: Partial<OutboxState>): void {
    this.state = { ...this.state, ...change };
    this.listeners.forEach((tell) => tell());
  }

  readonly subscribe = (tell: () => void): (() => void) => {
    this.listeners.add(tell);
    return () => this.listeners.delete(tell);
  };

  readonly snapshot = (): OutboxState => this.state;

  onSent(tell: Sent): () => void {
    this.sentListeners.add(tell);
    return () => this.sentListeners.delete(tell);
  }
}

type Outcome = "more" | "none" | "unreachable";

/** What is about the same specimen or spool as an entry that stays has to stay behind it. */
function nextOf(entries: OutboxEntry[], tried: ReadonlySet<number>): OutboxEntry | undefined {
  const held = new Set<string>();
  return entries.find((e) => {
    if (e.dropped_at) return false;
    const subjects = subjectsOf(e);
    const stays = e.refused !== undefined || tried.has(e.seq ?? -1) || subjects.some((s) => held.has(s));
    if (stays) subjects.forEach((s) => held.add(s));
    return !stays;
  });
}

export const outbox = new Outbox();

export function useOutbox(): OutboxState {
  return useSyncExternalStore(outbox.subscribe, outbox.snapshot);
}
