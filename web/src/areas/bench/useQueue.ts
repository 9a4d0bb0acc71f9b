import { useRef, useState } from "react";

import type { Schemas } from "../../api/client";
import { outbox } from "../../api/outbox";
import { counted } from "./counted";
import { started } from "./entry";
import { settledOnly } from "./StationParts";
import type { Accepted } from "./useAccepting";
import { draftKey } from "./useEntry";

type Item = Schemas["QueueItem"];
type States = ReadonlyMap<string, Item["state"]>;

interface Queue {
  testId: string;
  items: Item[];
  dimensionsOnly: boolean;
  /** Specimen to begin with. */
  wanted: string | undefined;
  onNotice: (text: string | null) => void;
}

/** The queue as this station sees it: which specimen is at hand, what was accepted here ahead of the server, and the way back. */
export function useQueue({ testId, items, dimensionsOnly, wanted, onNotice }: Queue) {
  const [done, setDone] = useState<States>(new Map());
  const [stack, setStack] = useState<Accepted[]>([]);
  const busy = useRef(false);
  const stateOf = (item: Item, known = done) => known.get(item.specimen_id) ?? item.state;
  const isOpen = (item: Item, known = done) => stateOf(item, known) === "waiting" || (!dimensionsOnly && stateOf(item, known) === "measured");
  // the specimen at hand is chosen once and stays, whatever the queue does meanwhile
  const [currentId, setCurrentId] = useState<string | null>(() => wanted ?? items.find((i) => isOpen(i))?.specimen_id ?? null);
  const chosen = items.find((i) => i.specimen_id === currentId) ?? null;
  // accepted elsewhere, or sent late by this browser: with nothing typed for it there is nothing to say about it
  const current = chosen && !isOpen(chosen) && !hasDraft(testId, chosen.specimen_id) ? (items.find((i) => isOpen(i)) ?? null) : chosen;

  const nextAfter = (id: string, known: States): string | null => {
    const at = items.findIndex((i) => i.specimen_id === id);
    const after = [...items.slice(at + 1), ...items.slice(0, at)];
    return after.find((i) => isOpen(i, known) && !i.held_by)?.specimen_id ?? null;
  };
  const accepted = (last: Accepted) => {
    const known = new Map(done).set(last.specimenId, last.state);
    setDone(known);
    setStack((s) => [...s, last]);
    setCurrentId(nextAfter(last.specimenId, known));
  };
  const undo = async () => {
    const last = stack.at(-1);
    if (!last || busy.current) return;
    busy.current = true;
    try {
      if (!(await outbox.withdraw(last.runId))) await outbox.add({ kind: "retract", run_id: last.runId, code: last.code, added_at: Date.now() });
      setStack(stack.slice(0, -1));
      setDone(new Map(done).set(last.specimenId, "waiting"));
      // a recording belongs to the run that was taken back: it is dropped anew under another id
      localStorage.setItem(draftKey(testId, last.specimenId), JSON.stringify({ ...last.entry, curve: null }));
      setCurrentId(last.specimenId);
      onNotice(`${last.code} was taken back; its entries stand here again${last.entry.curve ? ", drop its recording once more" : ""}`);
    } finally {
      busy.current = false;
    }
  };
  return {
    current,
    currentId,
    stateOf,
    isOpen,
    choose: setCurrentId,
    /** With nothing at hand, the first one of the round. */
    begin: () => setCurrentId((id) => id ?? items.find((i) => stateOf(i) === "waiting")?.specimen_id ?? null),
    next: () => current && setCurrentId(nextAfter(current.specimen_id, done)),
    accepted,
    undo,
    lastCode: stack.at(-1)?.code ?? null,
    /** Counts what was accepted here, so that what is at hand starts anew after an undo. */
    depth: stack.length,
    refreshed: () => setDone((d) => settledOnly(d, items)),
    ...counted(items.map((i) => stateOf(i))),
  };
}

/** Whether something was typed for a specimen and not accepted. */
function hasDraft(testId: string, specimenId: string): boolean {
  const kept = localStorage.getItem(draftKey(testId, specimenId));
  return kept !== null && started(JSON.parse(kept) as Accepted["entry"]);
}
