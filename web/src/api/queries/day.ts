import { api, as, keep } from "../api";
import type { Schemas } from "../client";

export const dayOptions = () => api.queryOptions("get", "/api/day", {}, { ...as<Schemas["DaySheet"]>(), refetchInterval: 30_000 });

export const foundOptions = (words: string) => api.queryOptions("get", "/api/found", { params: { query: { words, limit: 12 } } }, { ...as<Schemas["FoundList"]>(), ...keep, gcTime: 30_000 });

export const followUpsOptions = (object_kind: Schemas["FollowUpView"]["object_kind"], object_id: string) =>
  api.queryOptions("get", "/api/follow-ups", { params: { query: { object_kind, object_id } } }, as<Schemas["FollowUpList"]>());
