import type { Schemas } from "../../api/client";
import { LETTERS, type Log, type Sitting } from "./oven";

/** Something noted at an oven; what was wrong is taken back by a note of its own, so that notes from two devices go together. */
export type Note = Omit<Schemas["OvenNoteView"], "at" | "entered_by"> & { at: number };

/** A sitting as this browser keeps it; what was noted at other devices comes from the server. */
export interface Kept {
  id: string;
  rig: string;
  /** When they were put in. */
  begun: number;
  members: readonly Schemas["OvenMember"][];
  notes: readonly Note[];
  log: Log | null;
}

export const NOTHING: Kept = { id: "", rig: "", begun: 0, members: [], notes: [], log: null };

/** Where the sitting of a test that is open in this browser is kept. */
export const sittingKey = (testId: string): string => `assayer.sitting.${testId}`;

const noteOf = ({ at, ...note }: Schemas["OvenNoteView"]): Note => ({ id: note.id, what: note.what, specimen_id: note.specimen_id, field: note.field, raw: note.raw, note_id: note.note_id, at: new Date(at).getTime() });

/** A sitting that was begun at another device, to go on with here. */
export const keptOf = (oven: Schemas["OvenView"]): Kept => ({ id: oven.id, rig: oven.rig_version_id, begun: new Date(oven.started_at).getTime(), members: oven.members, notes: oven.notes.map(noteOf), log: null });

/** Who is still in an oven, without those that were left out since. */
export const inside = (oven: Schemas["OvenView"]) => sittingOf(keptOf(oven), oven.notes.map(noteOf)).members;

/** What was noted here and what the server has, each once. */
export function together(own: readonly Note[], served: readonly Schemas["OvenNoteView"][]): Note[] {
  const here = new Set(own.map((n) => n.id));
  return [...own, ...served.filter((n) => !here.has(n.id)).map(noteOf)];
}

/** What was noted and not taken back, in the order of its time. */
export function standing(notes: readonly Note[]): Note[] {
  const gone = new Set(notes.map((n) => n.note_id));
  return notes.filter((n) => n.what !== "taken back" && !gone.has(n.id)).sort((a, b) => a.at - b.at);
}

/** What taking back takes next; null where nothing was noted yet. */
export const lastOf = (notes: readonly Note[]): Note | null => standing(notes).findLast((n) => n.what === "shown" || n.what === "seen" || n.what === "left") ?? null;

/** The sitting as its notes tell it. */
export function sittingOf(kept: Kept, notes: readonly Note[]): Sitting {
  const now = standing(notes);
  const of = (what: Note["what"]) => now.filter((n) => n.what === what);
  const left = new Set(of("left").map((n) => n.specimen_id));
  const ended = (specimen: string) => of("ended").findLast((n) => n.specimen_id === specimen)?.raw || null;
  return {
    rig: kept.rig,
    begun: kept.begun,
    log: kept.log,
    members: kept.members.map((m, i) => ({ ...m, letter: LETTERS[i] ?? "", outcome: ended(m.specimen_id) })).filter((m) => !left.has(m.specimen_id)),
    track: of("shown").map(({ at, raw }) => ({ at, raw })),
    seen: of("seen").flatMap(({ id, specimen_id, field, at, raw }) => (specimen_id && field && !left.has(specimen_id) ? [{ id, specimen_id, field, at, raw }] : [])),
    logged: of("logger").at(-1)?.raw === "yes",
    every: of("step").at(-1)?.raw ?? "",
  };
}
