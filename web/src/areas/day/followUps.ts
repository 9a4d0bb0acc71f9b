import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";

type FollowUp = Schemas["FollowUpView"];

/** The day so many days from another, as the calendar here has it. */
export function dayAfter(days: number, from: Date): string {
  const day = new Date(from.getFullYear(), from.getMonth(), from.getDate() + days);
  return [day.getFullYear(), String(day.getMonth() + 1).padStart(2, "0"), String(day.getDate()).padStart(2, "0")].join("-");
}

/** How far a day is: "today", "in 12 days", "3 days late". */
export function daysUntil(day: string, now: Date): string {
  const [year, month, date] = day.split("-").map(Number);
  const days = Math.round((Date.UTC(year ?? 0, (month ?? 1) - 1, date) - Date.UTC(now.getFullYear(), now.getMonth(), now.getDate())) / 86_400_000);
  if (days === 0) return "today";
  if (days === 1) return "tomorrow";
  return days > 0 ? `in ${String(days)} days` : days === -1 ? "since yesterday" : `${String(-days)} days late`;
}

/** Changing follow-ups, with what went wrong and the last change, which can be undone. */
export function useFollowUps() {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const [last, setLast] = useState<{ words: string; undo: () => Promise<void> } | null>(null);
  const send = async (f: Pick<FollowUp, "id" | "revision">, body: Schemas["FollowUpEdit"]) =>
    unwrap<FollowUp>(await client.PATCH("/api/follow-ups/{follow_up_id}", { params: { path: { follow_up_id: f.id }, header: { "if-match": `"${String(f.revision)}"` } }, body }));
  const attempt = async (change: () => Promise<void>) => {
    try {
      await change();
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
    refresh(queries, "/api/follow-ups", "/api/day");
  };
  const edit = (f: FollowUp, body: Schemas["FollowUpEdit"], back: Schemas["FollowUpEdit"], words: string) =>
    attempt(async () => {
      const now = await send(f, body);
      setLast({
        words,
        undo: () =>
          attempt(async () => {
            await send(now, back);
            setLast(null);
          }),
      });
    });
  return {
    problem,
    last,
    attempt,
    settle: (f: FollowUp) => edit(f, { done: true }, { done: false }, `Settled: “${f.text}”.`),
    putOff: (f: FollowUp, to: string) => edit(f, { due_on: to }, { due_on: f.due_on }, `Put off: “${f.text}”.`),
    takeBack: (f: FollowUp) => edit(f, { retracted: true }, { retracted: false }, `Taken back: “${f.text}”.`),
  };
}
