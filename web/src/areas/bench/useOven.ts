import { useLocalStorage } from "@mantine/hooks";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import type { Schemas } from "../../api/client";
import { newId } from "../../api/ids";
import { outbox } from "../../api/outbox";
import { announce } from "../../ui/announce";
import { ended, LETTERS, nextField, oddReading, refusal, type Sitting } from "./oven";

const EMPTY: Sitting = { rig: "", members: [], track: [], seen: [] };

/** One sitting at an oven: kept in this browser until the specimens are taken out, then sent by way of the outbox. */
export function useOven(testId: string, fields: readonly Schemas["FieldView"][], outcomes: readonly Schemas["OutcomeView"][]) {
  const queries = useQueryClient();
  const [sitting, setSitting] = useLocalStorage<Sitting>({ key: `assayer.oven.${testId}`, defaultValue: EMPTY, getInitialValueInEffect: false });
  const [notice, setNotice] = useState<string | null>(null);
  const [odd, setOdd] = useState<string | null>(null);
  const [forgotten, setForgotten] = useState<Sitting | null>(null);
  const names = fields.map((f) => f.name);
  const stood = outcomes.find((o) => o.bound === "at_least")?.name ?? null;

  const begin = (rig: string, items: readonly Schemas["QueueItem"][]) =>
    setSitting({ ...EMPTY, rig, members: items.map((i) => ({ specimen_id: i.specimen_id, run_id: i.run_id ?? newId(), code: i.code, outcome: null })) });
  /** Whether the reading was kept; one that is odd is kept when it is sent once more. */
  const read = (raw: string): boolean => {
    const why = oddReading(sitting.track, raw);
    if (why && odd !== raw) {
      setOdd(raw);
      setNotice(why);
      return false;
    }
    if (why?.includes("no temperature")) return false;
    setOdd(null);
    setNotice(null);
    setSitting((s) => ({ ...s, track: [...s.track, { at: Date.now(), raw }] }));
    return true;
  };
  const mark = (letter: string) => {
    const why = refusal(sitting, letter, names);
    const member = sitting.members[LETTERS.indexOf(letter)];
    const last = sitting.track.at(-1);
    const field = member && nextField(sitting, member.specimen_id, names);
    if (why || !member || !last || !field) return setNotice(why);
    setNotice(null);
    setSitting((s) => ({ ...s, seen: [...s.seen, { id: newId(), specimen_id: member.specimen_id, field, at: Date.now(), raw: last.raw }] }));
    announce(`${member.code}: ${fields.find((f) => f.name === field)?.label ?? field} ${last.raw}`);
  };
  const undo = () => {
    const [lastSeen, lastRead] = [sitting.seen.at(-1), sitting.track.at(-1)];
    if (lastSeen && lastSeen.at >= (lastRead?.at ?? 0)) {
      setSitting((s) => ({ ...s, seen: s.seen.slice(0, -1) }));
      return setNotice(`${sitting.members.find((m) => m.specimen_id === lastSeen.specimen_id)?.code ?? ""}: taken back`);
    }
    if (!lastRead) return setNotice("nothing was noted yet");
    setSitting((s) => ({ ...s, track: s.track.slice(0, -1) }));
    setNotice(`${lastRead.raw} was taken back`);
  };
  const tell = (specimen: string, outcome: string | null) => setSitting((s) => ({ ...s, members: s.members.map((m) => (m.specimen_id === specimen ? { ...m, outcome } : m)) }));
  const leave = (specimen: string) => setSitting((s) => ({ ...s, members: s.members.filter((m) => m.specimen_id !== specimen), seen: s.seen.filter((x) => x.specimen_id !== specimen) }));
  const takeOut = async () => {
    for (const member of sitting.members) {
      const end = ended(sitting, member, names, stood);
      if (!end) continue;
      const readings = end.readings.map((s) => ({ id: s.id === member.run_id ? newId() : s.id, field: s.field, position: 0, raw: s.raw, happened_at: new Date(s.at).toISOString(), ambient_c: null, load: null, after: null }));
      const at = Math.max(...end.readings.map((s) => s.at));
      const run: Schemas["NewRun"] = {
        id: member.run_id, subject_kind: "specimen", subject_id: member.specimen_id, test_id: testId, rig_version_id: sitting.rig, happened_at: new Date(at).toISOString(),
        readings, complete: true, outcome: end.outcome ?? outcomes.find((o) => o.bound === "exact")?.name ?? null, confirmed: [], unchecked: true,
      }; // prettier-ignore
      await outbox.add({ kind: "run", run_id: member.run_id, code: member.code, run, added_at: Date.now() });
    }
    setSitting(EMPTY);
    setNotice(null);
    refresh(queries, "/api/tests/{test_id}/queue", "/api/bench", "/api/day", "/api/studies/{study_id}/board");
  };
  const ready = sitting.members.some((m) => ended(sitting, m, names, stood) !== null);
  const forget = () => {
    setForgotten(sitting);
    setSitting(EMPTY);
    setNotice(null);
  };
  const bringBack = () => {
    if (forgotten) setSitting(forgotten);
    setForgotten(null);
  };
  return { sitting, notice, ready, forgotten, begin, read, mark, undo, tell, leave, takeOut, forget, bringBack };
}

export type Oven = ReturnType<typeof useOven>;
