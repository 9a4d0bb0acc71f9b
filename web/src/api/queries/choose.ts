import { api, as, keep } from "../api";
import type { Schemas } from "../client";

export const purposesOptions = () => api.queryOptions("get", "/api/purposes", {}, as<Schemas["PurposeList"]>());

export const criteriaOptions = (study_id: string) => api.queryOptions("get", "/api/studies/{study_id}/criteria", { params: { path: { study_id } } }, as<Schemas["CriterionOptions"]>());

export const purposeOptions = (purpose_id: string) => api.queryOptions("get", "/api/purposes/{purpose_id}", { params: { path: { purpose_id } } }, as<Schemas["PurposeView"]>());

export const rankingOptions = (purpose_id: string, weights: Record<string, number>) =>
  api.queryOptions("post", "/api/purposes/{purpose_id}/ranking", { params: { path: { purpose_id } }, body: { weights } }, { ...as<Schemas["Ranking"]>(), ...keep });
