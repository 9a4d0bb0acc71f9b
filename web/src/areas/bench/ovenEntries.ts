import type { Schemas } from "../../api/client";
import { newId } from "../../api/ids";
import type { NewEntry } from "../../api/outbox";
import type { Member, Seen, Sitting } from "./oven";

/** So many readings of the oven go along with each run; a longer course keeps its first and last and an even choice between. */
const MOST = 150;

/** The run of one specimen that was in, with what was seen of it and what the oven showed: as typed, or the logger's file. */
export function entryOf(
  sitting: Sitting,
  member: Member,
  end: { readings: readonly Seen[] },
  told: { testId: string; course: string | null; looked: string | null; outcome: string | null },
): Extract<NewEntry, { kind: "run" }> {
  const plain = { ambient_c: null, load: null, after: null };
  const instant = (at: number) => new Date(at).toISOString();
  const seen = end.readings.map((s) => ({ ...plain, id: s.id === member.run_id ? newId() : s.id, field: s.field, position: 0, raw: s.raw, happened_at: instant(s.at) }));
  const first = sitting.track[0]?.at ?? 0;
  const course = sitting.log || !told.course ? [] : evenly(sitting.track, MOST).map((r, position) => ({ ...plain, id: newId(), field: told.course ?? "", position, raw: r.raw, happened_at: instant(r.at), after: (r.at - first) / 1000 }));
  const every = sitting.every?.trim() && told.looked ? [{ ...plain, id: newId(), field: told.looked, position: 0, raw: sitting.every.trim(), happened_at: instant(sitting.begun ?? Date.now()) }] : [];
  const curve = sitting.log
    ? { id: sitting.members[0]?.run_id === member.run_id ? sitting.log.id : newId(), rig_version_id: sitting.rig, name: sitting.log.name, file: new Blob([sitting.log.text]), log: true }
    : undefined;
  const run: Schemas["NewRun"] = {
    id: member.run_id, subject_kind: "specimen", subject_id: member.specimen_id, test_id: told.testId, rig_version_id: sitting.rig,
    happened_at: instant(Math.max(...end.readings.map((s) => s.at))), readings: [...seen, ...every, ...course], complete: true, curve_id: curve?.id ?? null,
    outcome: told.outcome, confirmed: [], unchecked: true,
  }; // prettier-ignore
  return { kind: "run", run_id: member.run_id, code: member.code, run, curve, added_at: Date.now() };
}

export function evenly<T>(all: readonly T[], most: number): T[] {
  if (all.length <= most) return [...all];
  return Array.from({ length: most }, (_, i) => all[Math.round((i * (all.length - 1)) / (most - 1))]).filter((x): x is T => x !== undefined);
}
