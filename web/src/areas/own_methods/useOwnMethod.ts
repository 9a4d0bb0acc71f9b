import { useDebouncedValue, useLocalStorage } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { trialOptions } from "../../api/queries/ownMethods";
import { beginning, completed, type Draft, samplesOf } from "./ownDraft";

/** A test of one's own while it is written: kept in this browser, tried at every change, and kept as a version at the end. */
export function useOwnMethod(key: string, start: () => Draft) {
  const [kept, setKept, drop] = useLocalStorage<{ id: string; draft: Draft } | null>({ key: `assayer.own.${key}`, defaultValue: null, getInitialValueInEffect: false });
  const [first] = useState(() => ({ id: newId(), draft: start() }));
  const { id } = kept ?? first;
  const draft = completed((kept ?? first).draft);
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [odd, setOdd] = useState<readonly string[]>([]);
  /** Whether a number stands typed that can be: what cannot be is kept out of the definition, and keeps it from being kept. */
  const mark = (label: string, value: number | null | undefined) => setOdd((all) => [...all.filter((l) => l !== label), ...(value == null ? [label] : [])]);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const body: Schemas["OwnTrial"] = { definition: draft.definition, samples: samplesOf(draft) };
  const [settled] = useDebouncedValue(JSON.stringify(body), 150);
  const trial = useQuery(trialOptions(JSON.parse(settled) as Schemas["OwnTrial"]));
  const change = (next: Draft) => {
    setProblem(null);
    setKept({ id, draft: next });
  };
  const keep = async () => {
    if (busy) return;
    setBusy(true);
    try {
      const made = unwrap<Schemas["OwnMethodView"]>(await client.POST("/api/own-methods", { body: { id, family: draft.family, definition: draft.definition } }));
      drop();
      refresh(queries, "/api/own-methods", "/api/declarations", "/api/rigs");
      await navigate({ to: "/methods/$method", params: { method: made.method } });
    } catch (error) {
      setProblem(messageOf(error));
    } finally {
      setBusy(false);
    }
  };
  const current = settled === JSON.stringify(body) ? trial.data : undefined;
  return { draft, change, trial: trial.data, faults: current?.faults ?? trial.data?.faults ?? [], ready: current !== undefined && current.faults.length === 0 && odd.length === 0, odd, mark, problem, busy, keep, forget: drop, begun: kept !== null };
}

export const fresh = beginning;
export type Own = ReturnType<typeof useOwnMethod>;
