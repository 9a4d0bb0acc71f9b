import { useLocalStorage } from "@mantine/hooks";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { refresh } from "../../api/api";
import { client, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { outbox } from "../../api/outbox";
import { usePerson } from "../../api/person";
import { readNumber } from "../../ui/number";
import { type Kept, type Member, slotOf } from "./round";

/** The room as read at the beginning of a round. */
export interface Room {
  id: string;
  raw: string;
  at: string;
}

export interface Draft {
  raw: string;
  /** The first keystroke: when it was read. */
  at: string;
}

/** A round ends by itself: what was read of the room an hour ago does not go for now. */
const ROOM_HOLDS = 60 * 60_000;

/** What a round keeps: readings and events by way of the outbox, what was typed, and the room. */
export function useRound(rack: Schemas["RackView"]) {
  const queries = useQueryClient();
  const person = usePerson() ?? "";
  const [kept, setKept] = useState<Kept[]>([]);
  const [skipped, setSkipped] = useState<ReadonlySet<string>>(new Set());
  const [drafts, setDrafts] = useLocalStorage<Record<string, Draft>>({ key: `assayer.draft.round.${rack.rig_id}`, defaultValue: {}, getInitialValueInEffect: false });
  const [room, setRoom] = useLocalStorage<Room | null>({ key: `assayer.room.${rack.rig_id}`, defaultValue: null, getInitialValueInEffect: false });
  const [ownSession] = useState(() => newId());
  const fresh = room !== null && Date.now() - Date.parse(room.at) < ROOM_HOLDS ? room : null;

  useEffect(
    () =>
      outbox.onSent(() => {
        refresh(queries, "/api/racks/{rig_id}", "/api/racks", "/api/bench", "/api/day");
      }),
    [queries],
  );

  const send = async (at: Pick<Member, "run_id" | "code" | "position" | "test_id"> & { specimen_id: string | null }, change: Partial<Schemas["NewRun"]>) => {
    const run: Schemas["NewRun"] = {
      id: at.run_id,
      subject_kind: "specimen",
      subject_id: at.specimen_id ?? "",
      test_id: at.test_id,
      rig_version_id: rack.rig_version_id,
      happened_at: new Date().toISOString(),
      readings: [],
      complete: false,
      place: { session_id: rack.session_id ?? ownSession, position: at.position, room: fresh },
      confirmed: [],
      unchecked: false,
      ...change,
    };
    await outbox.add({ kind: "run", run_id: at.run_id, code: at.code, run, added_at: Date.now() });
  };

  /** One reading or event of what hangs at a place. */
  const keep = async (member: Member, field: string, index: number, about: string | null, raw: string, at: string, extra: Pick<Schemas["NewRun"], "confirmed" | "unchecked">) => {
    const reading = { id: newId(), field, position: index, raw, happened_at: at, ambient_c: fresh ? (readNumber(fresh.raw) ?? null) : null, load: null, after: null, about };
    await send(member, { readings: [reading], ...extra });
    setKept((before) => [...before, { id: reading.id, runId: member.run_id, code: member.code, field, index, about, raw, at }]);
    forget(slotOf(member, field, index, about));
  };

  const forget = (slot: string) => setDrafts((d) => Object.fromEntries(Object.entries(d).filter(([k]) => k !== slot)));

  const type = (slot: string, raw: string) => setDrafts((d) => (raw.trim() ? { ...d, [slot]: { raw, at: d[slot]?.at ?? new Date().toISOString() } } : Object.fromEntries(Object.entries(d).filter(([k]) => k !== slot))));

  /** Take the last one back, wherever it is by now; it stands in its field again. */
  const undo = async (): Promise<Kept | null> => {
    const last = kept.at(-1);
    if (!last) return null;
    if (!(await outbox.withdraw(last.runId))) unwrap<Schemas["RunView"]>(await client.PUT("/api/runs/{run_id}/readings/{reading_id}/retraction", { params: { path: { run_id: last.runId, reading_id: last.id } } }));
    setKept(kept.slice(0, -1));
    if (last.raw) setDrafts((d) => ({ ...d, [slotOf({ run_id: last.runId }, last.field, last.index, last.about)]: { raw: last.raw, at: last.at } }));
    refresh(queries, "/api/racks/{rig_id}", "/api/racks");
    return last;
  };

  const hang = (item: Schemas["QueueItem"], testId: string, position: number) => send({ run_id: newId(), code: item.code, specimen_id: item.specimen_id, test_id: testId, position }, {});

  /** The end of a run: how it ended, or hung by mistake. */
  const end = async (member: Member, outcome: string | null, confirmed: string[]) => {
    if (outcome !== null) return send(member, { complete: true, outcome, confirmed });
    await outbox.add({ kind: "retract", run_id: member.run_id, code: member.code, added_at: Date.now() });
  };

  const skip = (slot: string) => setSkipped((s) => new Set([...s, slot]));

  return { person, kept, skipped, drafts, room: fresh, setRoom, keep, type, undo, hang, end, skip };
}

export type Round = ReturnType<typeof useRound>;
