import { api, as } from "../api";
import type { Schemas } from "../client";

/** Asked again while something is under way, so that its progress is seen. */
export const safekeepingOptions = () =>
  api.queryOptions("get", "/api/safekeeping", {}, { ...as<Schemas["Safekeeping"]>(), refetchInterval: (query) => (query.state.data?.job?.state === "running" ? 400 : 60_000) });
