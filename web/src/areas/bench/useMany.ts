import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { messageOf, type Schemas } from "../../api/client";
import { newId } from "../../api/ids";
import { outbox } from "../../api/outbox";
import { sendMany } from "../../api/queries/many";
import { assigned, bundles, type Row } from "./many";

interface Progress {
  done: number;
  of: number;
  what: string;
}

/** Many files on their way in: read in bundles, matched, put right, then kept one by one by way of the outbox. */
export function useMany(testId: string, rig: Schemas["RigView"], queue: Schemas["Queue"], section: readonly Schemas["FieldView"][]) {
  const [rows, setRows] = useState<readonly Row[]>([]);
  const [progress, setProgress] = useState<Progress | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [common, setCommons] = useState<Record<string, string>>({});
  const queries = useQueryClient();
  const measured = new Set(queue.items.filter((i) => i.state === "measured").map((i) => i.specimen_id));
  const hasCommon = section.length > 0 && section.every((f) => (common[f.name] ?? "").trim() !== "");

  const read = async (files: readonly File[]) => {
    if (!files.length || progress) return;
    setProblem(null);
    let all: Row[] = [...rows];
    let done = 0;
    try {
      for (const bundle of bundles([...files].sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true })))) {
        setProgress({ done, of: files.length, what: "read" });
        all = [...all, ...(await sendMany(testId, rig.id, bundle, all.flatMap((r) => (r.specimen_id ? [r.specimen_id] : []))))];
        setRows(all);
        done += bundle.length;
      }
    } catch (error) {
      setProblem(`${messageOf(error)} — ${String(done)} of ${String(files.length)} files were read and stand below; drop the others again`);
    } finally {
      setProgress(null);
    }
  };
  const takeIn = async (ready: readonly Row[]) => {
    setProblem(null);
    let done = 0;
    for (const row of ready) {
      setProgress({ done, of: ready.length, what: "taken in" });
      const item = queue.items.find((i) => i.specimen_id === row.specimen_id);
      if (item) await outbox.add({ kind: "run", run_id: item.run_id ?? row.id, code: item.code, run: runOf(row, item), added_at: Date.now() });
      done += 1;
    }
    setProgress(null);
    const kept = new Set(ready.map((r) => r.id));
    setRows((before) => before.filter((r) => !kept.has(r.id)));
    refresh(queries, "/api/tests/{test_id}/queue", "/api/bench", "/api/studies/{study_id}/board");
  };
  const runOf = (row: Row, item: Schemas["QueueItem"]): Schemas["NewRun"] => {
    const now = new Date().toISOString();
    const typed = item.state === "measured" ? [] : section.filter((f) => (common[f.name] ?? "").trim());
    return {
      id: item.run_id ?? newId(),
      subject_kind: "specimen",
      subject_id: item.specimen_id,
      test_id: testId,
      rig_version_id: rig.id,
      happened_at: now,
      readings: typed.map((f) => ({ id: newId(), field: f.name, position: 0, raw: common[f.name] ?? "", happened_at: now, ambient_c: null, load: null, after: null })),
      complete: true,
      curve_id: row.id,
      confirmed: [],
      unchecked: true,
    };
  };
  const assign = (id: string, specimen: Schemas["QueueItem"] | null) => setRows((before) => assigned(before, id, specimen));
  const setCommon = (name: string, raw: string) => setCommons((c) => ({ ...c, [name]: raw }));
  return { rows, progress, problem, common, hasCommon, measured, read, takeIn, assign, setCommon };
}

export type Many = ReturnType<typeof useMany>;
