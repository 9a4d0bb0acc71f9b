import { send } from "../bytes";
import { api, as } from "../api";
import type { Schemas } from "../client";

export type Unit = Schemas["PartView"]["unit"];

export const partsOptions = () => api.queryOptions("get", "/api/parts", {}, as<Schemas["PartList"]>());

export const partOptions = (part_id: string) => api.queryOptions("get", "/api/parts/{part_id}", { params: { path: { part_id } } }, as<Schemas["PartView"]>());

/** Takes in a part from its file; without a unit as the file says, or mm. */
export function sendPart(id: string, file: File, unit: string | null): Promise<Schemas["PartView"]> {
  const query = new URLSearchParams({ file_name: file.name, ...(unit ? { unit } : {}) });
  return send(`/api/parts/${id}?${query.toString()}`, file, () => undefined);
}

export const partFile = (id: string, kind: "3mf" | "stl" | "svg", orientation = "flat") => `/api/parts/${id}/solid.${kind}?orientation=${encodeURIComponent(orientation)}`;
