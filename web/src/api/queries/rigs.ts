import { api, as } from "../api";
import type { Schemas } from "../client";

export const rigsOptions = () => api.queryOptions("get", "/api/rigs", {}, as<Schemas["RigList"]>());

export const rigOptions = (rig_id: string) => api.queryOptions("get", "/api/rigs/{rig_id}", { params: { path: { rig_id } } }, as<Schemas["RigPage"]>());

/** How far a correction of a rig is worked out, asked for while it is sent. */
export const recomputingOptions = (rig_version_id: string, enabled: boolean) =>
  api.queryOptions("get", "/api/rig-versions/{rig_version_id}/recomputing", { params: { path: { rig_version_id } } }, { ...as<Schemas["Recomputing"]>(), enabled, refetchInterval: 500, gcTime: 0 });

/** How many runs an earlier reduction computed; asked again while they are recomputed. */
export const outdatedOptions = (busy: boolean) => api.queryOptions("get", "/api/recomputing", {}, { ...as<Schemas["Outdated"]>(), staleTime: Infinity, refetchInterval: busy ? 500 : false });

/** What core declares: methods, outcomes, reasons, roles, units. It changes with the program only. */
export const declarationsOptions = () => api.queryOptions("get", "/api/declarations", {}, { ...as<Schemas["Declarations"]>(), staleTime: Infinity });

export const scatterOptions = () => api.queryOptions("get", "/api/scatter", {}, as<Schemas["ScatterList"]>());

/** The rig's reference material from study to study. */
export const driftOptions = (rig_id: string) => api.queryOptions("get", "/api/rigs/{rig_id}/drift", { params: { path: { rig_id } } }, as<Schemas["RigDrift"]>());

export const againstOptions = (rig_id: string, other_id: string) => api.queryOptions("get", "/api/rigs/{rig_id}/against/{other_id}", { params: { path: { rig_id, other_id } } }, as<Schemas["RigsCompared"]>());

/** The differences that matter to this lab, where it has set them itself. */
export const marginsOptions = () => api.queryOptions("get", "/api/margins", {}, as<Schemas["LabMarginList"]>());
