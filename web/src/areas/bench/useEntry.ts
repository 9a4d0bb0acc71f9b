import { useDebouncedValue, useLocalStorage } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";

import { Problem, type Schemas } from "../../api/client";
import { previewOptions } from "../../api/queries/bench";
import { byCurve, emptyEntry, type Entry, readingsOf, slotsOf, type Stamp, wanted } from "./entry";

type Item = Schemas["QueueItem"];

export const draftKey = (testId: string, specimenId: string): string => `assayer.draft.${testId}.${specimenId}`;

interface AtHand {
  item: Item;
  test: Schemas["TestView"];
  method: Schemas["MethodView"];
  rig: Schemas["RigView"];
  blind: boolean;
  dimensionsOnly: boolean;
}

/** What stands in the fields for the specimen at hand, kept as its draft, and what the server makes of it. */
export function useEntry({ item, test, method, rig, blind, dimensionsOnly }: AtHand) {
  const [entry, setEntry, dropDraft] = useLocalStorage<Entry>({ key: draftKey(test.id, item.specimen_id), defaultValue: emptyEntry(), getInitialValueInEffect: false });
  const measured = item.state === "measured" && item.run_id !== null;
  const steps = useMemo(() => method.steps.filter((s) => !dimensionsOnly || s.kind === "section"), [method.steps, dimensionsOnly]);
  const before = useMemo(() => (measured ? earlier(item) : {}), [measured, item]);
  const locked = useMemo(() => new Set(Object.keys(before)), [before]);
  const whole = useMemo<Entry>(() => ({ ...entry, values: { ...entry.values, ...before } }), [entry, before]);
  const setup = useMemo(() => ({ protocol: test.protocol, features: test.shape.features, channels: rig.channels.map((c) => c.name) }), [test.protocol, test.shape.features, rig.channels]);
  const slots = useMemo(() => wanted(slotsOf(steps, setup, entry), entry), [steps, setup, entry]);
  const replaced = useMemo(() => byCurve(steps, setup, entry), [steps, setup, entry]);
  const change = useCallback((patch: Partial<Entry>) => setEntry((e) => ({ ...e, ...patch })), [setEntry]);
  const runId = measured ? item.run_id : null;
  const body = useMemo<Schemas["PreviewRequest"]>(
    () => ({
      test_id: test.id,
      rig_version_id: rig.id,
      specimen_id: item.specimen_id,
      run_id: runId,
      readings: readingsOf(entry, "", slots).map((r) => ({ field: r.field, position: r.position, raw: r.raw, happened_at: entry.stamps[r.key]?.at ?? null, ambient_c: r.ambient_c ?? null, load: r.load ?? null, after: null, about: r.about ?? null })),
      curve_id: entry.curve?.onServer ? entry.curve.id : null,
      outcome: entry.outcome,
      blind,
      complete: false,
      confirmed: entry.confirmed,
    }),
    [test.id, rig.id, item.specimen_id, runId, entry, slots, blind],
  );
  const [settled] = useDebouncedValue(body, 90);
  const preview = useQuery(previewOptions(settled));
  const wrong = useMemo(() => new Map((preview.data?.errors ?? []).flatMap((e) => (e.field === null ? [] : [[`${e.field}-${e.row ?? 0}`, e.text] as const]))), [preview.data]);
  const doubts = useMemo(() => new Map(doubted(preview.data ?? null)), [preview.data]);
  const readAs = useMemo(() => new Map((preview.data?.read_as ?? []).map((r) => [`${r.field}-${r.position}`, r.text] as const)), [preview.data]);
  const offline = preview.isError && preview.error instanceof Problem && preview.error.unreachable;

  const type = (key: string, raw: string, stamp?: Stamp) =>
    setEntry((e) => {
      const stamps = { ...e.stamps };
      if (!raw.trim()) delete stamps[key];
      else if (stamp && !stamps[key]) stamps[key] = stamp;
      return { ...e, values: { ...e.values, [key]: raw }, stamps };
    });
  const stamp = (key: string, at: Stamp) => setEntry((e) => ({ ...e, stamps: { ...e.stamps, [key]: at } }));
  const fill = (key: string, raw: string) => setEntry((e) => ({ ...e, values: { ...e.values, [key]: raw } }));
  return { entry, setEntry, change, type, stamp, fill, dropDraft, whole, slots, replaced, steps, locked, runId, body, preview: preview.data ?? null, wrong, doubts, readAs, offline };
}

/** Readings that may be right but hardly are, by place, with the reason. */
function doubted(preview: Schemas["Preview"] | null): [string, string][] {
  const checks = (preview?.checks ?? []).filter((c) => c.level === "caution" && c.field != null).map((c): [string, string] => [`${c.field ?? ""}-${String(c.position ?? 0)}`, c.text]);
  return [...checks, ...(preview?.questions ?? []).filter((q) => q.field).map((q): [string, string] => [`${q.field}-${String(q.row ?? 0)}`, q.text])];
}

export type AtEntry = ReturnType<typeof useEntry>;

/** What an earlier round measured of it, by place. */
function earlier(item: Item): Record<string, string> {
  return Object.fromEntries(Object.entries(item.fields).flatMap(([field, raws]) => raws.map((raw, i) => [`${field}-${i}`, raw] as const)));
}
