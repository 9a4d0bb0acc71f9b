import { api, as } from "../api";
import type { Schemas } from "../client";

export const dryingsOptions = () => api.queryOptions("get", "/api/dryings", {}, { ...as<Schemas["DryingList"]>(), refetchInterval: 30_000 });
