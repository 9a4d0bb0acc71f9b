import type { Schemas } from "../../api/client";

export type Member = Schemas["RackMember"];

/** A reading or an event that was kept in this browser and that the rack may not show yet. */
export interface Kept {
  id: string;
  runId: string;
  code: string;
  field: string;
  index: number;
  /** What of the specimen, or whose, it is. */
  about: string | null;
  raw: string;
  at: string;
}

/** What a place wants next. */
export type Task =
  | { kind: "reading"; field: string; index: number; words: string; due: Schemas["DueView"] | null; along: Schemas["AlongView"] | null; about: string | null }
  | { kind: "event"; event: Schemas["RackEvent"] }
  | { kind: "finish" }
  | { kind: "wait" };

const has = (kept: readonly Kept[], member: Member, field: string, index?: number, about?: string) =>
  kept.some((k) => k.runId === member.run_id && k.field === field && (index === undefined || k.index === index) && (about === undefined || k.about === about));

/** What is read along the main reading of a visit and was not yet. */
function alongTask(member: Member, kept: readonly Kept[], skipped: ReadonlySet<string>, person: string, before: boolean, index: number): Task | null {
  for (const along of member.along.filter((b) => b.before === before)) {
    const about = along.about ?? person;
    // nobody has said who grades
    if (!about) continue;
    const known = has(kept, member, along.field, index, about) || member.along_read.some((r) => r.field === along.field && r.about === about && r.position === index);
    if (!known && !skipped.has(slotOf(member, along.field, index, about))) return { kind: "reading", field: along.field, index, words: along.label, due: null, along, about };
  }
  return null;
}

/** The visit that goes on: its main reading was just kept, or is read and its window is still open. */
function visitOf(member: Member, kept: readonly Kept[], now: number): number | null {
  const own = kept.filter((k) => k.runId === member.run_id && k.field === member.field).map((k) => k.index);
  const read = member.due.filter((d) => d.state === "read" && Date.parse(d.closes) > now && Date.parse(d.opens) <= now).map((d) => d.position);
  return [...own, ...read].length ? Math.max(...own, ...read) : null;
}

/** What is to be done at a place now, from what the rack holds and what was just kept. `skipped`: not readable, this round. */
export function taskOf(member: Member, kept: readonly Kept[], skipped: ReadonlySet<string>, person = "", now = Date.now()): Task {
  const event = member.next_event;
  if (event && has(kept, member, event.name)) return { kind: "wait" };
  if (member.stage === "hung" && event) {
    const { before } = member;
    if (before !== null && member.unloaded === null && !has(kept, member, before) && !skipped.has(slotOf(member, before, 0))) return { kind: "reading", field: before, index: 0, words: member.before_words, due: null, along: null, about: null };
    return alongTask(member, kept, skipped, person, true, 0) ?? { kind: "event", event };
  }
  const visit = visitOf(member, kept, now);
  const more = visit === null ? null : alongTask(member, kept, skipped, person, false, visit);
  if (more) return more;
  const next = member.due.find((d) => d.state !== "read" && d.state !== "missed" && !has(kept, member, member.field, d.position));
  if (next) return { kind: "reading", field: member.field, index: next.position, words: member.words, due: next, along: null, about: null };
  return event ? { kind: "event", event } : { kind: "finish" };
}

export const slotOf = (member: Pick<Member, "run_id">, field: string, index: number, about: string | null = null): string => `${member.run_id}-${field}-${String(index)}${about === null ? "" : `-${about}`}`;

/** Whether anything is left to be read at this visit once this is read, or passed over. */
export function moreHere(member: Member, task: Extract<Task, { kind: "reading" }>, kept: readonly Kept[], skipped: ReadonlySet<string>, person: string): boolean {
  const then = { id: "", runId: member.run_id, code: member.code, field: task.field, index: task.index, about: task.about, raw: "", at: "" };
  const next = taskOf(member, [...kept, then], skipped, person);
  return next.kind === "reading" && next.along !== null;
}

/** Whether a place is part of the walk now: something is to be done, or its reading has come near. */
export function isNow(member: Member, task: Task, skipped: ReadonlySet<string>): boolean {
  if (task.kind === "wait") return false;
  if (task.kind !== "reading") return true;
  if (skipped.has(slotOf(member, task.field, task.index, task.about))) return false;
  return task.due === null || task.due.state !== "ahead";
}

/** The next place of the walk after `position`, going round once; null when the round is done. */
export function nextPlace(members: readonly Member[], kept: readonly Kept[], skipped: ReadonlySet<string>, position: number, person = ""): number | null {
  const open = members.filter((m) => isNow(m, taskOf(m, kept, skipped, person), skipped)).map((m) => m.position);
  return open.find((p) => p > position) ?? open[0] ?? null;
}

/** A typed gap in the unit that the rack shows: digits alone are read with the implied decimals. */
export function shownValue(raw: string, decimals: number): number | null {
  const text = raw.trim().replace(",", ".");
  if (!/^\d+(\.\d*)?$|^\.\d+$/.test(text)) return null;
  return text.includes(".") ? Number(text) : Number(text) / 10 ** decimals;
}
