/** How many seconds a reading may lag behind its tone and still be taken as read at the tone. */
const LEAST = 3;
const SHARE = 0.2;

/** The instant a reading was taken: at its tone, if typing began soon after it; else when typing began, early or late. */
export function readAt(loadedAt: number, dueSeconds: number, typedAt: number): number {
  const due = loadedAt + dueSeconds * 1000;
  const lag = (typedAt - due) / 1000;
  return lag >= 0 && lag <= Math.max(LEAST, SHARE * dueSeconds) ? due : typedAt;
}

/** Which sounds fall between two looks at the clock: seconds before a reading that are ticked, and the reading itself. */
export function soundsBetween(times: readonly number[], before: number, now: number): ("tick" | "call")[] {
  const passed = (at: number) => before < at && at <= now;
  return times.flatMap((t) => [...[3, 2, 1].filter((s) => t - s > 0 && passed(t - s)).map(() => "tick" as const), ...(passed(t) ? ["call" as const] : [])]);
}

export const seconds = (s: number): string => (s < 0 ? "0" : s < 60 ? s.toFixed(0) : `${String(Math.floor(s / 60))}:${String(Math.floor(s % 60)).padStart(2, "0")}`);
