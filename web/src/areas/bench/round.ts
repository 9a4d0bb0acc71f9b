import type { Schemas } from "../../api/client";

export type Member = Schemas["RackMember"];

/** A reading or an event that was kept in this browser and that the rack may not show yet. */
export interface Kept {
  id: string;
  runId: string;
  code: string;
  field: string;
  index: number;
  raw: string;
  at: string;
}

/** What a place wants next. */
export type Task =
  | { kind: "reading"; field: string; index: number; words: string; due: Schemas["DueView"] | null }
  | { kind: "event"; event: Schemas["RackEvent"] }
  | { kind: "finish" }
  | { kind: "wait" };

const has = (kept: readonly Kept[], member: Member, field: string, index?: number) => kept.some((k) => k.runId === member.run_id && k.field === field && (index === undefined || k.index === index));

/** What is to be done at a place now, from what the rack holds and what was just kept. `skipped`: not readable, this round. */
export function taskOf(member: Member, kept: readonly Kept[], skipped: ReadonlySet<string>): Task {
  const event = member.next_event;
  if (event && has(kept, member, event.name)) return { kind: "wait" };
  if (member.stage === "hung" && event) {
    const { before } = member;
    if (before !== null && member.unloaded === null && !has(kept, member, before) && !skipped.has(slotOf(member, before, 0))) return { kind: "reading", field: before, index: 0, words: member.before_words, due: null };
    return { kind: "event", event };
  }
  const next = member.due.find((d) => d.state !== "read" && d.state !== "missed" && !has(kept, member, member.field, d.position));
  if (next) return { kind: "reading", field: member.field, index: next.position, words: member.words, due: next };
  return event ? { kind: "event", event } : { kind: "finish" };
}

export const slotOf = (member: Member, field: string, index: number): string => `${member.run_id}-${field}-${String(index)}`;

/** Whether a place is part of the walk now: something is to be done, or its reading has come near. */
export function isNow(member: Member, task: Task, skipped: ReadonlySet<string>): boolean {
  if (task.kind === "wait") return false;
  if (task.kind !== "reading") return true;
  if (skipped.has(slotOf(member, task.field, task.index))) return false;
  return task.due === null || task.due.state !== "ahead";
}

/** The next place of the walk after `position`, going round once; null when the round is done. */
export function nextPlace(members: readonly Member[], kept: readonly Kept[], skipped: ReadonlySet<string>, position: number): number | null {
  const open = members.filter((m) => isNow(m, taskOf(m, kept, skipped), skipped)).map((m) => m.position);
  return open.find((p) => p > position) ?? open[0] ?? null;
}

/** A typed gap in the unit that the rack shows: digits alone are read with the implied decimals. */
export function shownValue(raw: string, decimals: number): number | null {
  const text = raw.trim().replace(",", ".");
  if (!/^\d+(\.\d*)?$|^\.\d+$/.test(text)) return null;
  return text.includes(".") ? Number(text) : Number(text) / 10 ** decimals;
}
