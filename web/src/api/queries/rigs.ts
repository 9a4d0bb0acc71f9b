import { api, as } from "../api";
import type { Schemas } from "../client";

export const rigsOptions = () => api.queryOptions("get", "/api/rigs", {}, as<Schemas["RigList"]>());

export const rigOptions = (rig_id: string) => api.queryOptions("get", "/api/rigs/{rig_id}", { params: { path: { rig_id } } }, as<Schemas["RigPage"]>());

/** What core declares: methods, outcomes, reasons, roles, units. It changes with the program only. */
export const declarationsOptions = () => api.queryOptions("get", "/api/declarations", {}, { ...as<Schemas["Declarations"]>(), staleTime: Infinity });

export const scatterOptions = () => api.queryOptions("get", "/api/scatter", {}, as<Schemas["ScatterList"]>());
