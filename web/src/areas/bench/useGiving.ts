import { useLocalStorage } from "@mantine/hooks";
import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useEffect } from "react";

import { refresh } from "../../api/api";
import type { Schemas } from "../../api/client";
import { newId } from "../../api/ids";
import { outbox } from "../../api/outbox";
import type { Print } from "./grading";

/** What one person gives the prints of a test, kept by way of the outbox: one run a print, grown reading by reading, closed at the end. */
export function useGiving(view: Schemas["GradingView"], person: string, rig: string) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  // a reload before the server has heard must not make a second run of the same print
  const [runs, setRuns] = useLocalStorage<Record<string, string>>({ key: `assayer.grading.${view.test_id}`, defaultValue: {}, getInitialValueInEffect: false });

  useEffect(() => outbox.onSent(() => refresh(queries, "/api/tests/{test_id}/grading", "/api/bench", "/api/day")), [queries]);

  const runOf = (print: Print): string => {
    const known = print.run_id ?? runs[print.specimen_id];
    if (known) return known;
    const made = newId();
    setRuns((before) => ({ ...before, [print.specimen_id]: made }));
    return made;
  };
  const send = (print: Print, more: Partial<Schemas["NewRun"]>) => {
    const { id = runOf(print) } = more;
    const run: Schemas["NewRun"] = {
      id, subject_kind: "specimen", subject_id: print.specimen_id, test_id: view.test_id, rig_version_id: rig, happened_at: new Date().toISOString(), readings: [], complete: false, confirmed: [], unchecked: false, ...more,
    }; // prettier-ignore
    return outbox.add({ kind: "run", run_id: id, code: print.code, run, added_at: Date.now() });
  };
  const give = (print: Print, runId: string, id: string, field: string, value: number) =>
    send(print, { id: runId, readings: [{ id, field, position: 0, raw: String(value), happened_at: new Date().toISOString(), ambient_c: null, load: null, after: null, about: person }] });
  const close = async (prints: readonly Print[]) => {
    for (const print of prints) if (!print.complete) await send(print, { complete: true, outcome: "graded" });
    await navigate({ to: "/studies/$studyId/findings", params: { studyId: view.study_id }, search: { test: view.test_id } });
  };
  return { runOf, give, close };
}
