import { useLocalStorage } from "@mantine/hooks";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import type { Schemas } from "../../api/client";
import { newId } from "../../api/ids";
import { outbox } from "../../api/outbox";
import { announce } from "../../ui/announce";
import { sittingKey } from "../../ui/sittings";
import { ended, inTheWay, LETTERS, nextField, oddReading, refusal, type Sitting, unknown } from "./oven";
import { entryOf } from "./ovenEntries";

const EMPTY: Sitting = { rig: "", members: [], track: [], seen: [], begun: 0, logged: false, log: null };

/** One sitting at an oven: kept in this browser until the specimens are taken out, then sent by way of the outbox. */
export function useOven(testId: string, fields: readonly Schemas["FieldView"][], outcomes: readonly Schemas["OutcomeView"][], course: string | null, looked: string | null) {
  const queries = useQueryClient();
  const [sitting, setSitting] = useLocalStorage<Sitting>({ key: sittingKey(testId), defaultValue: EMPTY, getInitialValueInEffect: false });
  const [notice, setNotice] = useState<string | null>(null);
  const [odd, setOdd] = useState<string | null>(null);
  const [forgotten, setForgotten] = useState<Sitting | null>(null);
  const names = fields.map((f) => f.name);
  const stood = outcomes.find((o) => o.bound === "at_least")?.name ?? null;

  const begin = (rig: string, items: readonly Schemas["QueueItem"][]) =>
    setSitting({ ...EMPTY, rig, begun: Date.now(), members: items.map((i) => ({ specimen_id: i.specimen_id, run_id: i.run_id ?? newId(), code: i.code, outcome: null })) });
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
    const last = sitting.track.at(-1)?.raw ?? "";
    const field = member && nextField(sitting, member.specimen_id, names);
    if (why || !member || !field) return setNotice(why);
    setNotice(null);
    setSitting((s) => ({ ...s, seen: [...s.seen, { id: newId(), specimen_id: member.specimen_id, field, at: Date.now(), raw: last }] }));
    announce(`${member.code}: ${fields.find((f) => f.name === field)?.label ?? field} ${last}`);
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
  const along = (change: Pick<Sitting, "logged" | "every" | "log">) => {
    setNotice(null);
    setSitting((s) => ({ ...s, ...change }));
  };
  /** False where something is in the way, which is then said. */
  const takeOut = async (): Promise<boolean> => {
    const why = inTheWay(sitting);
    setNotice(why);
    if (why) return false;
    for (const member of sitting.members) {
      const end = ended(sitting, member, names, stood);
      if (end) await outbox.add(entryOf(sitting, member, end, { testId, course, looked, outcome: end.outcome ?? outcomes.find((o) => o.bound === "exact")?.name ?? null }));
    }
    setSitting(EMPTY);
    refresh(queries, "/api/tests/{test_id}/queue", "/api/bench", "/api/day", "/api/studies/{study_id}/board");
    return true;
  };
  const ready = sitting.members.some((m) => ended(sitting, m, names, stood) !== null) || unknown(sitting).length > 0;
  const forget = () => {
    setForgotten(sitting);
    setSitting(EMPTY);
    setNotice(null);
  };
  const bringBack = () => {
    if (forgotten) setSitting(forgotten);
    setForgotten(null);
  };
  return { sitting, notice, setNotice, ready, forgotten, begin, read, along, mark, undo, tell, leave, takeOut, forget, bringBack };
}

export type Oven = ReturnType<typeof useOven>;
