import { api, as, keep } from "../api";
import type { Schemas } from "../client";

export const togetherOptions = (spool_ids: string[]) => api.queryOptions("post", "/api/dryings/preview", { body: { spool_ids } }, { ...as<Schemas["TogetherView"]>(), ...keep });
export const dryingsOptions = () => api.queryOptions("get", "/api/dryings", {}, { ...as<Schemas["DryingList"]>(), refetchInterval: 30_000 });
