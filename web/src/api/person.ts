import { useSyncExternalStore } from "react";

const KEY = "assayer.person";
const listeners = new Set<() => void>();

/** Who sits here; a name without password, kept in this browser. */
export function person(): string {
  return localStorage.getItem(KEY) ?? "";
}

export function setPerson(name: string): void {
  localStorage.setItem(KEY, name);
  listeners.forEach((tell) => tell());
}

export function usePerson(): string {
  return useSyncExternalStore(
    (tell) => {
      listeners.add(tell);
      return () => listeners.delete(tell);
    },
    person,
  );
}

/** A name for this browser as a place of work, so that a queue item is held by one station at a time. */
export function station(): string {
  const kept = localStorage.getItem("assayer.station");
  if (kept) return kept;
  const made = `st-${Math.random().toString(36).slice(2, 8)}`;
  localStorage.setItem("assayer.station", made);
  return made;
}
