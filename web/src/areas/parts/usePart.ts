import { useLocalStorage } from "@mantine/hooks";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, Problem, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { partOptions } from "../../api/queries/parts";
import { type Kind, problemsOf, sentOf, touched, type TypedPlace, typedOf, type View } from "./places";

/** What is being said about a part: kept in this browser until it was sent. */
interface Draft {
  name: string;
  note: string;
  places: TypedPlace[];
}

export function usePart(part: Schemas["PartView"]) {
  const queries = useQueryClient();
  const stored: Draft = { name: part.name, note: part.note, places: typedOf(part.places) };
  const [draft, setDraft, forget] = useLocalStorage<Draft | null>({ key: `assayer-part-${part.id}`, defaultValue: null, getInitialValueInEffect: false });
  const [kind, setKind] = useState<Kind>("measure");
  const [chosen, setChosen] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const now = draft ?? stored;
  const changed = draft !== null && JSON.stringify(draft) !== JSON.stringify(stored);
  const wrong = problemsOf(now.places);
  const change = (more: Partial<Draft>) => {
    setProblem(null);
    setDraft({ ...now, ...more });
  };
  const add = (view: View, u: number, v: number) => {
    const fresh = touched(newId(), kind, view, u, v, now.places);
    change({ places: [...now.places, fresh] });
    setChosen(fresh.id);
  };
  const edit = (id: string, more: Partial<TypedPlace>) => change({ places: now.places.map((p) => (p.id === id ? { ...p, ...more } : p)) });
  const drop = (id: string) => change({ places: now.places.filter((p) => p.id !== id) });
  const keep = async () => {
    setBusy(true);
    try {
      const kept = unwrap<Schemas["PartView"]>(
        await client.PATCH("/api/parts/{part_id}", {
          params: { path: { part_id: part.id }, header: { "if-match": `"${String(part.revision)}"` } },
          body: { name: now.name, note: now.note, places: sentOf(now.places) },
        }),
      );
      queries.setQueryData(partOptions(part.id).queryKey, kept);
      refresh(queries, "/api/parts", "/api/parts/{part_id}");
      forget();
      setProblem(null);
    } catch (error) {
      // what is typed here stays, and one chooses
      const overtaken = error instanceof Problem && error.status === 412;
      if (overtaken) refresh(queries, "/api/parts/{part_id}");
      setProblem(overtaken ? "Somebody else changed this part meanwhile. “Leave it as it was” shows theirs; “Keep it” puts yours in its place." : messageOf(error));
    } finally {
      setBusy(false);
    }
  };
  const retract = async (back: boolean) => {
    try {
      unwrap(await client.PUT("/api/parts/{part_id}/retraction", { params: { path: { part_id: part.id }, query: { back } } }));
      refresh(queries, "/api/parts", "/api/parts/{part_id}");
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return { now, kind, setKind, chosen, setChosen, changed, wrong, busy, problem, change, add, edit, drop, keep, forget, retract };
}

export type PartAtHand = ReturnType<typeof usePart>;
