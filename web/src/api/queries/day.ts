import { api, as } from "../api";
import type { Schemas } from "../client";

export const dayOptions = () => api.queryOptions("get", "/api/day", {}, { ...as<Schemas["DaySheet"]>(), refetchInterval: 30_000 });
