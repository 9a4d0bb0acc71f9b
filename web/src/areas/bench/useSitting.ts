import { useLocalStorage } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";

import { refresh } from "../../api/api";
import { messageOf, type Schemas } from "../../api/client";
import { newId } from "../../api/ids";
import { subjectsOf } from "../../api/entries";
import { outbox, useOutbox } from "../../api/outbox";
import { ovenOptions } from "../../api/queries/bench";
import { type Kept, keptOf, type Note, NOTHING, sittingKey, sittingOf, together } from "./sittings";

export type Said = Pick<Note, "what"> & Partial<Pick<Note, "specimen_id" | "field" | "raw" | "note_id">>;

/** What is noted at an oven is kept in this browser and sent at once; what others note at theirs comes in. */
export function useSitting(testId: string) {
  const queries = useQueryClient();
  const [kept, setKept] = useLocalStorage<Kept>({ key: sittingKey(testId), defaultValue: NOTHING, getInitialValueInEffect: false });
  const [forgotten, setForgotten] = useState<Kept | null>(null);
  const [busy, setBusy] = useState(false);
  const found = useQuery(ovenOptions(kept.id)).data;
  const served = found?.id === kept.id ? found : undefined;
  const onItsWay = useOutbox().entries.some((e) => !e.dropped_at && !e.refused && subjectsOf(e).includes(kept.id));
  // as long as something of ours is under way the server may not know yet that it was brought back
  const over = served && !onItsWay && (served.ended_at !== null || served.forgotten) ? served : null;
  const notes = useMemo(() => together(kept.notes, served?.notes ?? []), [kept, served]);
  const sitting = useMemo(() => sittingOf(kept, notes), [kept, notes]);
  const codeOf = (specimen: string | null) => kept.members.find((m) => m.specimen_id === specimen)?.code ?? "";

  useEffect(() => outbox.onSent((e) => e.kind.startsWith("oven") && refresh(queries, "/api/tests/{test_id}/ovens", "/api/ovens/{oven_id}", "/api/day")), [queries]);
  const note = (said: Said) => {
    const made: Note = { specimen_id: null, field: null, raw: "", note_id: null, ...said, id: newId(), at: Date.now() };
    setKept((k) => ({ ...k, notes: [...k.notes, made] }));
    void outbox.add({ kind: "oven note", oven_id: kept.id, body: { notes: [{ ...made, at: new Date(made.at).toISOString() }] }, code: codeOf(made.specimen_id) || "oven", added_at: made.at });
  };
  /** Put them in; where one is in another oven already, why it cannot be is given, and nothing is begun. */
  const begin = async (rig: string, items: readonly Schemas["QueueItem"][]): Promise<string | null> => {
    if (busy) return null;
    setBusy(true);
    const made: Kept = { ...NOTHING, id: newId(), rig, begun: Date.now(), members: items.map((i) => ({ specimen_id: i.specimen_id, run_id: i.run_id ?? newId(), code: i.code })) };
    const body = { id: made.id, test_id: testId, rig_version_id: rig, started_at: new Date(made.begun).toISOString(), members: made.members.map(({ specimen_id, run_id }) => ({ specimen_id, run_id })) };
    try {
      await outbox.deliver({ kind: "oven", body, code: items.map((i) => i.code).join(", "), added_at: made.begun });
      setKept(made);
      return null;
    } catch (error) {
      return messageOf(error);
    } finally {
      setBusy(false);
      refresh(queries, "/api/tests/{test_id}/ovens");
    }
  };
  const finish = async (what: "end" | "forget" | "bring back", id: string) => {
    await outbox.add({ kind: "oven end", oven_id: id, what, at: new Date().toISOString(), code: "oven", added_at: Date.now() });
    setKept(NOTHING);
  };
  const forget = () => {
    setForgotten(kept);
    void finish("forget", kept.id);
  };
  const bringBack = async () => {
    if (!forgotten) return;
    await finish("bring back", forgotten.id);
    setKept(forgotten);
    setForgotten(null);
  };
  const open = (oven: Schemas["OvenView"]) => setKept(keptOf(oven));
  const close = () => setKept(NOTHING);
  return { kept, setKept, sitting, notes, over, busy, forgotten, codeOf, note, begin, open, close, finish, forget, bringBack };
}
