import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { client, messageOf, Problem, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { outbox } from "../../api/outbox";
import { previewOptions } from "../../api/queries/bench";
import type { Asked } from "../../ui/Questions";
import { type Entry, readingsOf } from "./entry";
import type { AtEntry } from "./useEntry";
import type { useRecording } from "./useRecording";

type Item = Schemas["QueueItem"];

/** What a station keeps of an accepted entry, to take it back. */
export interface Accepted {
  specimenId: string;
  runId: string;
  code: string;
  entry: Entry;
  state: Item["state"];
}

interface Accepting {
  item: Item;
  test: Schemas["TestView"];
  rigId: string;
  dimensionsOnly: boolean;
  at: AtEntry;
  travelling: ReturnType<typeof useRecording>["travelling"];
  focusOn: (key: string) => void;
  /** To where the next Enter accepts. */
  toAccept: () => void;
  onNotice: (text: string | null) => void;
  onAccepted: (accepted: Accepted) => void;
}

/** The decision: checked by the server, asked about, then kept first in this browser and sent by itself. */
export function useAccepting({ item, test, rigId, dimensionsOnly, at, travelling, focusOn, toAccept, onNotice, onAccepted }: Accepting) {
  const { entry, body, slots } = at;
  const queries = useQueryClient();
  const [asked, setAsked] = useState<readonly Asked[]>([]);
  const busy = useRef(false);

  const keep = async (unchecked: boolean, validity?: Schemas["NewRun"]["validity"], reason?: string) => {
    const done = !dimensionsOnly || validity === "left_out";
    const run = { ...newRun(item, test, rigId, at, done, validity), validity_reason: reason ?? null, unchecked };
    // safe in this browser first; the server hears of it by itself
    await outbox.add({ kind: "run", run_id: run.id, code: item.code, run, ...(travelling ? { curve: travelling } : {}), added_at: Date.now() });
    const bound = test.outcomes.find((o) => o.name === entry.outcome)?.bound;
    const state: Item["state"] = !done ? "measured" : (validity ?? (bound && bound !== "exact" ? bound : "counts"));
    at.dropDraft();
    onAccepted({ specimenId: item.specimen_id, runId: run.id, code: item.code, entry, state });
  };

  /** Acts on what the server says of the entry: a mistake, something missing, questions, or nothing against it. */
  const judge = async (checked: Schemas["Preview"]) => {
    const mistakes = dimensionsOnly ? checked.errors.filter((e) => slots.some((s) => s.field === e.field)) : checked.errors;
    const first = mistakes[0];
    if (first) {
      onNotice(first.text);
      focusOn(`${first.field ?? ""}-${first.row ?? 0}`);
    } else if (!dimensionsOnly && !checked.reduction && !(entry.curve && !entry.curve.onServer)) {
      onNotice(entry.curve ? "the recording and the dimensions do not make a result yet" : "something is missing: fill what is needed");
    } else if (checked.questions.length) {
      setAsked(checked.questions);
    } else {
      onNotice(null);
      await keep(false);
    }
  };

  const accept = async () => {
    if (busy.current) return;
    busy.current = true;
    try {
      const checked = unwrap<Schemas["Preview"]>(await client.POST("/api/previews", { body: { ...body, complete: !dimensionsOnly } }));
      queries.setQueryData(previewOptions(body).queryKey, checked);
      await judge(checked);
    } catch (error) {
      // without the server the entry is kept all the same; what it would have asked stays with it as a remark
      if (error instanceof Problem && error.unreachable) await keep(true);
      else onNotice(messageOf(error));
    } finally {
      busy.current = false;
    }
  };

  /** `likely` takes what was probably meant; null lets it stand as typed. */
  const answer = (question: Asked, likely: string | null) => {
    const key = `${question.field}-${question.row ?? 0}`;
    setAsked((rest) => rest.filter((q) => q.key !== question.key));
    if (likely === null) {
      at.change({ confirmed: [...entry.confirmed, question.key] });
      if (question.confirm) toAccept();
      else focusOn(key);
    } else {
      at.fill(key, likely);
      focusOn(key);
    }
  };
  return { asked, answer, forget: () => setAsked([]), accept, keep, busy };
}

function newRun(item: Item, test: Schemas["TestView"], rigId: string, { entry, slots, replaced, locked, runId, wrong }: AtEntry, done: boolean, validity: Schemas["NewRun"]["validity"]): Omit<Schemas["NewRun"], "unchecked"> {
  const now = new Date().toISOString();
  const leave = new Set([...locked, ...(validity === "left_out" ? wrong.keys() : []), ...replaced]);
  return {
    id: runId ?? newId(),
    subject_kind: "specimen",
    subject_id: item.specimen_id,
    test_id: test.id,
    rig_version_id: rigId,
    happened_at: now,
    readings: sent(readingsOf(entry, now, slots, leave)),
    complete: done,
    curve_id: done ? (entry.curve?.id ?? null) : null,
    outcome: done ? entry.outcome : null,
    outcome_place: done ? entry.place : null,
    validity: validity ?? null,
    place: null,
    confirmed: entry.confirmed,
  };
}

/** Readings with ids of their own, without the places they were typed in. */
function sent(readings: ReturnType<typeof readingsOf>): Schemas["NewReading"][] {
  return readings.map((r) => ({ id: newId(), field: r.field, position: r.position, raw: r.raw, happened_at: r.happened_at ?? null, ambient_c: r.ambient_c ?? null, load: r.load ?? null, after: r.after ?? null, about: r.about ?? null }));
}
