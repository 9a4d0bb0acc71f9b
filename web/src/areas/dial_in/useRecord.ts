import { useLocalStorage } from "@mantine/hooks";
import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { refresh } from "../../api/api";
import { Problem, type Schemas } from "../../api/client";
import { useIds } from "../../api/useIds";
import { readNumber, typed } from "../../ui/number";
import { useAsking } from "../../ui/useAsking";
import { isUnplanned } from "./nextTrial";
import { useTrail } from "./useTrail";
import type { Trial } from "./words";

/** What is typed of a trial; kept in this browser until the server has taken it. */
export interface RecordDraft {
  outcome: "" | "good" | "poor" | "failed" | "stopped";
  failed_at: string;
  failed_band: string;
  minutes: string;
  total_mass: string;
  brim_mass: string;
  support_mass: string;
  lift: string;
  room: string;
  spool_id: string;
  tested: "" | "warm" | "cold";
  removal: "" | "by hand" | "flexed" | "reheated" | "tool";
  symptoms: string[];
  note: string;
  decision: "" | "keep" | "drop" | "try next";
  grades: Record<string, number | null>;
  more: string[];
  while_running: { layer: string; what: string }[];
  bond: "" | "bond and match" | "bond" | "do not bond";
  filaments: { material_id: string; part: string; purge: string }[];
  /** Whether grades are given near, or from 1 m. */
  distance: "near" | "far";
  far: Record<string, number | null>;
}

export const NUMBERS = ["failed_at", "minutes", "total_mass", "brim_mass", "support_mass", "lift", "room"] as const;

function draftOf(t: Trial): RecordDraft {
  const texts = Object.fromEntries(NUMBERS.map((n) => [n, typed(t[n])])) as Record<(typeof NUMBERS)[number], string>;
  return {
    ...texts,
    outcome: t.outcome === "planned" ? "" : t.outcome,
    failed_band: t.failed_band === null ? "" : String(t.failed_band),
    spool_id: t.spool_id ?? "",
    tested: t.tested as RecordDraft["tested"],
    removal: t.removal as RecordDraft["removal"],
    symptoms: t.symptoms,
    note: t.note,
    decision: t.decision,
    grades: {},
    more: [],
    while_running: t.while_running.map((c) => ({ layer: String(c.layer), what: c.what })),
    bond: t.bond as RecordDraft["bond"],
    filaments: t.filaments.map((f) => ({ material_id: f.material.id, part: typed(f.part_mass), purge: typed(f.purge_mass) })),
    distance: "near",
    far: {},
  };
}

const numberOf = (text: string): number | null => readNumber(text) ?? null;

/** With the state of the trial that it was typed over; null where the trial was not planned yet. */
type Typed = RecordDraft & { revision: number | null };

const keyOf = (trialId: string) => `assayer.trial.${trialId}`;

/** Was something typed for this trial that the server does not have? */
export const hasRecordDraft = (trialId: string) => (localStorage.getItem(keyOf(trialId)) ?? "null") !== "null";

/** The record of a trial as it is typed, and keeping it. */
export function useRecord(trial: Trial, onKept: () => void) {
  // another tab that has kept its own takes nothing away here
  const [draft, setDraft, forget] = useLocalStorage<Typed | null>({ key: keyOf(trial.id), defaultValue: null, getInitialValueInEffect: false, sync: false });
  const queries = useQueryClient();
  const ids = useIds();
  const [busy, setBusy] = useState(false);
  const asking = useAsking();
  const revisionMoved = useRef(false);
  const { record } = useTrail();
  const now = { ...draftOf(trial), ...draft };
  const set = (change: Partial<RecordDraft>) => setDraft((before) => ({ ...draftOf(trial), revision: isUnplanned(trial) ? null : trial.revision, ...before, ...change }));
  const wrong = NUMBERS.find((n) => readNumber(now[n]) === undefined);
  // the same grade sent twice is one grade
  const gradeId = (trait: string, grade: number | null) => ids.of(`${trait}=${String(grade)}`);
  const noted = (error: unknown): never => {
    revisionMoved.current = error instanceof Problem && error.status === 412;
    throw error;
  };
  const keep = async (confirmed: string[] = []) => {
    if (wrong || !now.outcome) return;
    setBusy(true);
    const numbers = Object.fromEntries(NUMBERS.map((n) => [n, numberOf(now[n])])) as Record<(typeof NUMBERS)[number], number | null>;
    const told: Partial<Schemas["TrialRecord"]> = {
      ...numbers,
      outcome: now.outcome,
      failed_band: now.failed_band ? Number(now.failed_band) : null,
      spool_id: now.spool_id || null,
      tested: now.tested,
      removal: now.removal,
      symptoms: now.symptoms,
      note: now.note,
      decision: now.decision,
      while_running: now.while_running.filter((c) => c.what.trim() && numberOf(c.layer)).map((c) => ({ layer: numberOf(c.layer) ?? 1, what: c.what })),
      bond: now.bond,
      filaments: now.filaments.filter((f) => f.material_id).map((f) => ({ material_id: f.material_id, part_mass: numberOf(f.part), purge_mass: numberOf(f.purge) })),
      grades: (["near", "far"] as const).flatMap((distance) => Object.entries(distance === "near" ? now.grades : now.far).map(([trait, grade]) => ({ id: gradeId(`${distance} ${trait}`, grade), trait, grade, distance }))),
      confirmed,
    };
    if (await asking.attempt(() => record(trial, told).catch(noted))) {
      ids.forget();
      forget();
      onKept();
    } else if (revisionMoved.current) {
      // it was kept elsewhere: what it is now is shown, and what was typed here stays
      revisionMoved.current = false;
      refresh(queries, "/api/trails/{trail_id}");
    }
    setBusy(false);
  };
  const elsewhere = draft !== null && draft.revision !== null && draft.revision !== trial.revision;
  /** What is typed stands over what was kept elsewhere. */
  const stand = () => setDraft((before) => before && { ...before, revision: trial.revision });
  return { now, set, keep, busy, asking, wrong, begun: draft !== null, forget, elsewhere, stand };
}
