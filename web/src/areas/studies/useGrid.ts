import { useWindowEvent } from "@mantine/hooks";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import type { Schemas } from "../../api/client";

/** The chosen cell, moved by keys; Enter opens what was found there, or the bench where nothing was yet. */
export function useGrid(study: Schemas["StudyView"], columns: Schemas["EvidenceView"][], body: React.RefObject<HTMLTableSectionElement | null>, onZoom: (step: number) => void) {
  const [chosen, setAt] = useState<[number, number]>([0, 0]);
  const navigate = useNavigate();
  const open = (row: number, column: number) => {
    const cell = columns[column]?.cells[row];
    const test = columns[column]?.test_id;
    if (!cell || !test) return;
    if (cell.tested) void navigate({ to: "/studies/$studyId/findings", params: { studyId: study.id }, search: { test } });
    else void navigate({ to: "/bench", search: { test } });
  };
  const focus = (row: number, column: number) => {
    setAt([row, column]);
    body.current?.querySelector<HTMLElement>(`[data-at="${row}-${column}"]`)?.focus();
  };
  const onKey = (e: React.KeyboardEvent | KeyboardEvent, row: number, column: number) => {
    const rows = study.arms.length;
    const moves: Record<string, [number, number]> = {
      ArrowUp: [Math.max(0, row - 1), column],
      ArrowDown: [Math.min(rows - 1, row + 1), column],
      ArrowLeft: [row, Math.max(0, column - 1)],
      ArrowRight: [row, Math.min(columns.length - 1, column + 1)],
      Home: [row, 0],
      End: [row, columns.length - 1],
      PageUp: [0, column],
      PageDown: [rows - 1, column],
    };
    const to = moves[e.key];
    if (to) focus(...to);
    else if (e.key === "Enter") open(row, column);
    else if (e.key === "+" || e.key === "-") onZoom(e.key === "+" ? 1 : -1);
    else if (e.key === "b" || e.key === "B") void navigate({ to: "/bench", search: { test: columns[column]?.test_id } });
    else return;
    e.preventDefault();
  };
  // from the first moment on: where nothing else has the cursor, keys are the board's
  useWindowEvent("keydown", (e) => {
    const at = document.activeElement;
    const free = at === null || at === document.body || at.tagName === "MAIN" || at.tagName === "H1";
    if (free && !e.ctrlKey && !e.metaKey && !e.altKey && !e.defaultPrevented) onKey(e, ...chosen);
  });
  return { at: chosen, focus, open, onKey };
}
