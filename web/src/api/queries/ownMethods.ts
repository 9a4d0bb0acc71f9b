import { api, as, keep } from "../api";
import type { Schemas } from "../client";

export const ownMethodsOptions = () => api.queryOptions("get", "/api/own-methods", {}, as<Schemas["OwnMethodList"]>());

export const languageOptions = () => api.queryOptions("get", "/api/own-methods/language", {}, { ...as<Schemas["OwnLanguage"]>(), staleTime: Infinity });

/** What a definition makes of its samples; the last answer stays while a newer one is on its way. */
export const trialOptions = (body: Schemas["OwnTrial"]) => api.queryOptions("post", "/api/own-methods/trial", { body }, { ...as<Schemas["OwnTrialView"]>(), ...keep });
