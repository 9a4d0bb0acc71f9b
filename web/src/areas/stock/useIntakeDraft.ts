import { useEffect, useState } from "react";

import type { Schemas } from "../../api/client";
import { newId } from "../../api/ids";

export interface IntakeDraft {
  id: string;
  newSpoolId: string;
  /** Another check of a spool that is there; empty for a new one. */
  spoolId: string;
  materialId: string;
  lot: string;
  received: string;
  label: string;
  heatLimit: string;
  body: Schemas["NewSpool"]["body"];
  bore: string;
  looseEnd: Schemas["NewSpool"]["loose_end"];
  gross: string;
  empty: string;
  seal: "" | "intact" | "open" | "none";
  desiccant: "" | "dry" | "wet" | "none";
  winding: "" | "even" | "loose" | "crossed";
  snap: "" | "bends" | "snaps";
  snapGood: "" | "bends" | "snaps";
  popping: "" | "none" | "some" | "much";
  diameters: string[];
  storage: "sealed bag" | "dry box" | "open";
  place: string;
  decision: "" | "fit" | "dry first" | "reject";
  note: string;
  confirmed: string[];
}

const KEY = "assayer.intake";

function today(): string {
  const now = new Date();
  return new Date(now.getTime() - now.getTimezoneOffset() * 60_000).toISOString().slice(0, 10);
}

export function freshDraft(materialId = "", spoolId = ""): IntakeDraft {
  return {
    id: newId(), newSpoolId: newId(), spoolId, materialId, lot: "", received: today(), label: "", heatLimit: "", body: "", bore: "", looseEnd: "", gross: "", empty: "", seal: "", desiccant: "",
    winding: "", snap: "", snapGood: "", popping: "", diameters: [], storage: "open", place: "", decision: "", note: "", confirmed: [],
  }; // prettier-ignore
}

function kept(): IntakeDraft | null {
  try {
    const found = JSON.parse(localStorage.getItem(KEY) ?? "null") as Partial<IntakeDraft> | null;
    return found?.id ? { ...freshDraft(), ...found } : null;
  } catch {
    return null;
  }
}

/** The sheet being filled in, kept in this browser until the server has taken it: a closed tab loses nothing. */
export function useIntakeDraft(materialId: string | undefined, spoolId: string | undefined) {
  const [draft, setDraft] = useState<IntakeDraft>(() => {
    const before = kept();
    if (before && (spoolId ? before.spoolId === spoolId : !before.spoolId) && (!materialId || before.materialId === materialId)) return before;
    return freshDraft(materialId, spoolId);
  });
  useEffect(() => {
    localStorage.setItem(KEY, JSON.stringify(draft));
  }, [draft]);
  const set = (change: Partial<IntakeDraft>) => setDraft((d) => ({ ...d, ...change }));
  const clear = () => {
    localStorage.removeItem(KEY);
    setDraft(freshDraft());
  };
  return { draft, set, clear };
}

/** Is there anything in it that a person typed? */
export function begun(d: IntakeDraft): boolean {
  return Boolean(d.lot || d.gross || d.empty || d.seal || d.winding || d.diameters.length);
}
