import type { Schemas } from "../../api/client";
import { readNumber } from "../../ui/number";
import type { Asked } from "../../ui/Questions";
import type { IntakeDraft } from "./useIntakeDraft";

export const BODY = [
  { value: "", label: "not looked at" },
  { value: "plastic", label: "plastic" },
  { value: "cardboard", label: "cardboard" },
  { value: "refill", label: "none: a refill" },
] as const;
export const LOOSE_END = [
  { value: "", label: "not looked at" },
  { value: "straight", label: "free and straight" },
  { value: "bent", label: "bent" },
  { value: "under a turn", label: "under another turn" },
] as const;
export const SEAL = [
  { value: "intact", label: "intact" },
  { value: "open", label: "open" },
  { value: "none", label: "no bag" },
] as const;
export const DESICCANT = [
  { value: "dry", label: "shows dry" },
  { value: "wet", label: "shows wet" },
  { value: "none", label: "none" },
] as const;
export const WINDING = [
  { value: "even", label: "even" },
  { value: "loose", label: "loose" },
  { value: "crossed", label: "crossed" },
] as const;
export const SNAP = [
  { value: "bends", label: "bends" },
  { value: "snaps", label: "snaps" },
] as const;
export const POPPING = [
  { value: "none", label: "none" },
  { value: "some", label: "some" },
  { value: "much", label: "much" },
] as const;
export const STORAGE = [
  { value: "sealed bag", label: "sealed bag" },
  { value: "dry box", label: "dry box" },
  { value: "open", label: "open" },
] as const;
export const DECISIONS = [
  { value: "fit", label: "fit" },
  { value: "dry first", label: "dry first" },
  { value: "reject", label: "reject" },
] as const;

function looked(d: IntakeDraft) {
  return {
    gross: d.gross,
    empty: d.empty,
    seal: d.seal,
    desiccant: d.desiccant,
    winding: d.winding,
    snap: d.snap,
    snap_known_good: d.snapGood,
    popping: d.popping,
    diameters: d.diameters,
    confirmed: d.confirmed,
  };
}

export function trialOf(d: IntakeDraft, label: number | null): Schemas["IntakePreviewRequest"] {
  return { ...looked(d), material_id: d.materialId, spool_id: d.spoolId || null, label_net: label, received_on: d.spoolId || !d.received ? null : d.received };
}

export function bodyOf(d: IntakeDraft, label: number | null): Schemas["NewIntake"] {
  const more = { id: d.id, happened_at: new Date().toISOString(), decision: d.decision || null, note: d.note, storage: d.storage, place: d.place };
  if (d.spoolId) return { ...looked(d), ...more, spool_id: d.spoolId };
  return { ...looked(d), ...more, spool: newSpool(d, label) };
}

export function newSpool(d: IntakeDraft, label: number | null): Schemas["NewSpool"] {
  return { id: d.newSpoolId, material_id: d.materialId, lot: d.lot, received_on: d.received, label_net: label, heat_limit: readNumber(d.heatLimit) ?? null, body: d.body, bore: readNumber(d.bore) ?? null, loose_end: d.looseEnd, note: "" };
}

export function dedupe(questions: Asked[]): Asked[] {
  return [...new Map(questions.map((q) => [q.key, q])).values()];
}
