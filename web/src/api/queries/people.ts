import { api, as } from "../api";
import type { Schemas } from "../client";

export const peopleOptions = () => api.queryOptions("get", "/api/people", {}, as<Schemas["People"]>());
