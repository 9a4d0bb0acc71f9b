import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import type { Schemas } from "../../api/client";
import { outbox } from "../../api/outbox";
import { announce } from "../../ui/announce";
import { ended, inTheWay, type Log, nextField, oddReading, refusal, endQuestion, unknown } from "./oven";
import { entryOf } from "./ovenEntries";
import { lastOf } from "./sittings";
import { useSitting } from "./useSitting";

/** One sitting at an oven, as its page acts on it. */
export function useOven(testId: string, fields: readonly Schemas["FieldView"][], outcomes: readonly Schemas["OutcomeView"][], course: string | null, looked: string | null) {
  const queries = useQueryClient();
  const own = useSitting(testId);
  const { sitting, notes, note, codeOf } = own;
  const [notice, setNotice] = useState<string | null>(null);
  const [odd, setOdd] = useState<string | null>(null);
  // about those that still stand when they are to be taken out
  const [asking, setAsking] = useState(false);
  const names = fields.map((f) => f.name);
  const stood = outcomes.find((o) => o.bound === "at_least")?.name ?? null;

  const begin = async (rig: string, items: readonly Schemas["QueueItem"][]) => setNotice(await own.begin(rig, items));
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
    setAsking(false);
    note({ what: "shown", raw });
    return true;
  };
  const mark = (letter: string) => {
    const why = refusal(sitting, letter, names);
    const member = sitting.members.find((m) => m.letter === letter);
    const last = sitting.track.at(-1)?.raw ?? "";
    const field = member && nextField(sitting, member.specimen_id, names);
    if (why || !member || !field) return setNotice(why);
    setNotice(null);
    note({ what: "seen", specimen_id: member.specimen_id, field, raw: last });
    announce(`${member.code}: ${fields.find((f) => f.name === field)?.label ?? field} ${last}`);
  };
  const undo = () => {
    const last = lastOf(notes);
    if (!last) return setNotice("nothing was noted yet");
    note({ what: "taken back", note_id: last.id });
    setNotice(last.what === "shown" ? `${last.raw} was taken back` : last.what === "left" ? `${codeOf(last.specimen_id)} is in it again` : `${codeOf(last.specimen_id)}: taken back`);
  };
  const leave = (specimen_id: string) => {
    note({ what: "left", specimen_id });
    setNotice(`${codeOf(specimen_id)} was left out: U takes that back`);
  };
  const look = (every: string) => every.trim() !== sitting.every && note({ what: "step", raw: every.trim() });
  const setLog = (log: Log | null) => {
    setNotice(null);
    own.setKept((k) => ({ ...k, log }));
  };
  /** False where something is in the way, which is then said. */
  const takeOut = async (agreed: boolean): Promise<boolean> => {
    const why = inTheWay(sitting);
    setNotice(why);
    const asked = why === null && !agreed && endQuestion(sitting, names, stood) !== null;
    setAsking(asked);
    if (why || asked) return false;
    for (const member of sitting.members) {
      const end = ended(sitting, member, names, stood);
      if (end) await outbox.add(entryOf(sitting, member, end, { testId, course, looked, outcome: end.outcome ?? outcomes.find((o) => o.bound === "exact")?.name ?? null }));
    }
    await own.finish("end", own.kept.id);
    refresh(queries, "/api/tests/{test_id}/queue", "/api/bench", "/api/day", "/api/studies/{study_id}/board");
    return true;
  };
  return {
    ...own, notice, setNotice, asked: asking ? endQuestion(sitting, names, stood) : null, goOn: () => setAsking(false), begin, read, mark, undo, leave, look, setLog, takeOut,
    tell: (specimen_id: string, raw: string) => note({ what: "ended", specimen_id, raw }),
    logger: (along: boolean) => note({ what: "logger", raw: along ? "yes" : "" }),
    forget: () => {
      setNotice(null);
      own.forget();
    },
    ready: sitting.members.some((m) => ended(sitting, m, names, stood) !== null) || unknown(sitting).length > 0,
  }; // prettier-ignore
}

export type Oven = ReturnType<typeof useOven>;
