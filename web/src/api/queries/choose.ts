import { api, as, keep } from "../api";
import type { Schemas } from "../client";

export const purposesOptions = () => api.queryOptions("get", "/api/purposes", {}, as<Schemas["PurposeList"]>());

export const criteriaOptions = (study_id: string) => api.queryOptions("get", "/api/studies/{study_id}/criteria", { params: { path: { study_id } } }, as<Schemas["CriterionOptions"]>());

export const purposeOptions = (purpose_id: string) => api.queryOptions("get", "/api/purposes/{purpose_id}", { params: { path: { purpose_id } } }, as<Schemas["PurposeView"]>());

/** `revision` is the purpose's: after a change of what it asks for, it is ranked anew. */
export const rankingOptions = (purpose_id: string, weights: Record<string, number>, revision: number, bounds_exact = false) =>
  api.queryOptions("post", "/api/purposes/{purpose_id}/ranking", { params: { path: { purpose_id } }, body: { weights, bounds_exact }, revision }, { ...as<Schemas["Ranking"]>(), ...keep });
