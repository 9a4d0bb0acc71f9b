import type { Schemas } from "../../api/client";
import { readNumber, typed } from "../../ui/number";

export type Kind = Schemas["PlaceIn"]["kind"];
export type View = Schemas["PlaceIn"]["view"];

/** A place as it is typed. */
export interface TypedPlace {
  id: string;
  kind: Kind;
  label: string;
  view: View;
  u: string;
  v: string;
  nominal: string;
}

export const KINDS: Record<Kind, string> = { grade: "grade", measure: "measure", load: "load" };
export const VIEWS: Record<View, string> = { top: "from above", front: "from the front", side: "from the side" };

const tenth = (mm: number) => String(Math.round(mm * 10) / 10);

export const typedOf = (places: readonly Schemas["PartPlaceView"][]): TypedPlace[] =>
  places.map((p) => ({ id: p.id, kind: p.kind, label: p.label, view: p.view, u: typed(p.u), v: typed(p.v), nominal: typed(p.nominal) }));

/** A place where the part was touched, to the tenth of a millimetre; called after what is done there until it has a name. */
export const touched = (id: string, kind: Kind, view: View, u: number, v: number, there: readonly TypedPlace[]): TypedPlace => {
  const alike = there.filter((p) => p.kind === kind).length;
  return { id, kind, label: alike ? `${kind} ${String(alike + 1)}` : kind, view, u: tenth(u), v: tenth(v), nominal: "" };
};

/** What stands in the way of keeping the places, by place and field; empty where nothing does. */
export function problemsOf(places: readonly TypedPlace[]): Map<string, string> {
  const found = new Map<string, string>();
  for (const p of places) {
    if (!p.label.trim()) found.set(`${p.id} label`, "it needs a name");
    for (const axis of ["u", "v"] as const) {
      const value = readNumber(p[axis]);
      if (value === null || value === undefined) found.set(`${p.id} ${axis}`, "a number of mm");
      else if (Math.abs(value) > 1000) found.set(`${p.id} ${axis}`, "within 1000 mm");
    }
    if (p.kind === "measure") {
      const size = readNumber(p.nominal);
      if (size === undefined) found.set(`${p.id} nominal`, "a number of mm, or nothing");
      else if (size !== null && !(size > 0 && size <= 1000)) found.set(`${p.id} nominal`, "between 0 and 1000 mm");
    }
  }
  return found;
}

/** As they are sent; only asked for where nothing is wrong. */
export const sentOf = (places: readonly TypedPlace[]): Schemas["PlaceIn"][] =>
  places.map((p) => ({ id: p.id, kind: p.kind, label: p.label.trim(), view: p.view, u: readNumber(p.u) ?? 0, v: readNumber(p.v) ?? 0, nominal: p.kind === "measure" ? (readNumber(p.nominal) ?? null) : null }));
