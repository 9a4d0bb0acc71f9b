import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { useSyncExternalStore } from "react";

import { client, identity, messageOf, Problem, type Schemas, sendCurve, unwrap } from "./client";

/**
 * What was accepted on the bench and is on its way to the server.
 *
 * An entry is written to IndexedDB before anything else happens, so a dead network, a killed server or a
 * closed browser loses nothing. Ids are made here: the server takes the same entry twice as one.
 */
export interface OutboxEntry {
  seq?: number;
  kind: "run" | "retract";
  run_id: string;
  code: string;
  /** Body of the request; for "run" only. */
  run?: Schemas["NewRun"];
  /** A recording that has not reached the server yet. */
  curve?: { id: string; rig_version_id: string; name: string; file: Blob };
  added_at: number;
  /** Who entered it, and in which zone: it is sent with their name, whoever sits here by then. */
  by: Record<string, string>;
  /** Why the server refused it; it then waits for a person. */
  refused?: string;
}

interface OutboxSchema extends DBSchema {
  entries: { key: number; value: OutboxEntry };
}

export interface OutboxState {
  waiting: number;
  refused: OutboxEntry[];
  offline: boolean;
}

type Sent = (entry: OutboxEntry, run: Schemas["RunView"] | null) => void;

export class Outbox {
  private readonly db: Promise<IDBPDatabase<OutboxSchema>>;
  private state: OutboxState = { waiting: 0, refused: [], offline: false };
  private readonly listeners = new Set<() => void>();
  private readonly sentListeners = new Set<Sent>();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private delay = 500;
  private sending: Promise<void> | null = null;

  constructor(name = "assayer") {
    this.db = openDB<OutboxSchema>(name, 1, {
      upgrade(db) {
        db.createObjectStore("entries", { keyPath: "seq", autoIncrement: true });
      },
    });
    if (typeof window !== "undefined") window.addEventListener("online", () => void this.flush());
  }

  /** Keep an entry durably; resolves once it cannot be lost any more. Sending goes on by itself. */
  async add(given: Omit<OutboxEntry, "by">): Promise<void> {
    const entry: OutboxEntry = { ...given, by: identity() };
    const db = await this.db;
    const transaction = db.transaction("entries", "readwrite", { durability: "strict" });
    await Promise.all([transaction.store.add(entry), transaction.done]);
    await this.refresh();
    void this.flush();
  }

  /** Take back the latest entry of a run that has not been sent; false if it has left already. */
  async withdraw(runId: string): Promise<boolean> {
    // an entry on its way must first arrive or fail: only then it is known which it is
    if (this.sending) await this.sending;
    const db = await this.db;
    const found = (await db.getAll("entries")).findLast((e) => e.run_id === runId && e.kind === "run");
    if (found?.seq === undefined) return false;
    await db.delete("entries", found.seq);
    await this.refresh();
    return true;
  }

  /** Drop a refused entry that a person has dealt with. */
  async discard(seq: number): Promise<void> {
    await (await this.db).delete("entries", seq);
    await this.refresh();
  }

  /** Send what waits, oldest first; one tab at a time. */
  flush(): Promise<void> {
    if (this.sending) return this.sending;
    clearTimeout(this.timer);
    const run = () => this.sendAll();
    const locked = typeof navigator !== "undefined" && "locks" in navigator ? navigator.locks.request("assayer-outbox", run) : run();
    this.sending = Promise.resolve(locked).finally(() => {
      this.sending = null;
    });
    return this.sending;
  }

  private async sendAll(): Promise<void> {
    const db = await this.db;
    let failed = false;
    for (;;) {
      const entries = (await db.getAll("entries")).filter((e) => !e.refused);
      const next = entries[0];
      if (!next) break;
      try {
        const run = await this.send(next);
        if (next.seq !== undefined) await db.delete("entries", next.seq);
        this.delay = 500;
        this.setState({ offline: false });
        await this.refresh();
        this.sentListeners.forEach((tell) => tell(next, run));
      } catch (error) {
        if (error instanceof Problem && !error.unreachable && error.status < 500) {
          await db.put("entries", { ...next, refused: messageOf(error) });
          await this.refresh();
          continue;
        }
        failed = true;
        break;
      }
    }
    if (failed) {
      this.setState({ offline: true });
      this.timer = setTimeout(() => void this.flush(), this.delay);
      this.delay = Math.min(this.delay * 2, 10_000);
    }
  }

  private async send(entry: OutboxEntry): Promise<Schemas["RunView"] | null> {
    if (entry.kind === "retract") {
      return unwrap<Schemas["RunView"]>(await client.PUT("/api/runs/{run_id}/retraction", { params: { path: { run_id: entry.run_id } }, headers: entry.by }));
    }
    if (entry.curve) await sendCurve(entry.curve.id, entry.curve.rig_version_id, entry.curve.file, entry.curve.name, entry.by);
    if (!entry.run) return null;
    return unwrap<Schemas["RunView"]>(await client.POST("/api/runs", { body: entry.run, headers: entry.by })) ?? null;
  }

  /** Read the state from the store, at start and after every change. */
  async refresh(): Promise<void> {
    const entries = await (await this.db).getAll("entries");
    this.setState({ waiting: entries.filter((e) => !e.refused).length, refused: entries.filter((e) => e.refused) });
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

export const outbox = new Outbox();

export function useOutbox(): OutboxState {
  return useSyncExternalStore(outbox.subscribe, outbox.snapshot);
}
