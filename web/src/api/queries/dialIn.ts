import type { QueryClient } from "@tanstack/react-query";

import { api, as, keep, refresh } from "../api";
import { send } from "../bytes";
import type { Schemas } from "../client";

export const declarationsOfDialIn = () => api.queryOptions("get", "/api/dial-in", {}, { ...as<Schemas["DialInDeclarations"]>(), staleTime: Infinity });

export const trailsOptions = () => api.queryOptions("get", "/api/trails", {}, as<Schemas["TrailList"]>());

export const trailOptions = (trail_id: string) => api.queryOptions("get", "/api/trails/{trail_id}", { params: { path: { trail_id } } }, as<Schemas["TrailView"]>());

export const nextOptions = (trail_id: string, trial_id: string | undefined, symptom: string | undefined) =>
  api.queryOptions(
    "get",
    "/api/trails/{trail_id}/next",
    { params: { path: { trail_id }, query: { ...(trial_id ? { trial_id } : {}), ...(symptom ? { symptom } : {}) } } },
    { ...as<Schemas["NextSteps"]>(), ...keep },
  );

export const sheetOptions = (sheet_id: string) => api.queryOptions("get", "/api/sheets/{sheet_id}", { params: { path: { sheet_id } } }, as<Schemas["SheetPage"]>());

export const differencesOptions = (a: string, b: string) => api.queryOptions("get", "/api/sheet-differences", { params: { query: { a, b } } }, as<Schemas["SheetComparison"]>());

export const hardwareOptions = () => api.queryOptions("get", "/api/hardware", {}, as<Schemas["HardwareView"]>());

export const hardwareRecordOptions = (object_id: string) => api.queryOptions("get", "/api/hardware/{object_id}/record", { params: { path: { object_id } } }, as<Schemas["HardwareRecord"]>());

export const gcodeFilesOptions = (trail_id?: string) => api.queryOptions("get", "/api/gcode", { params: { query: trail_id ? { trail_id } : {} } }, as<Schemas["GcodeList"]>());

export const gcodeOptions = (file_id: string) => api.queryOptions("get", "/api/gcode/{file_id}", { params: { path: { file_id } } }, as<Schemas["GcodeView"]>());

export const gcodeJobOptions = (file_id: string) => api.queryOptions("get", "/api/gcode/{file_id}/job", { params: { path: { file_id } } }, { ...as<Schemas["GcodeJob"]>(), gcTime: 0 });

export const fileDifferencesOptions = (a: string, b: string) => api.queryOptions("get", "/api/gcode-differences", { params: { query: { a, b } } }, as<Schemas["FileComparison"]>());

export const seriesOptions = (body: Schemas["SeriesIn"], trail_id: string | undefined) =>
  api.queryOptions("post", "/api/series/preview", { body, params: { query: trail_id ? { trail_id } : {} } }, { ...as<Schemas["SeriesLook"]>(), ...keep, retry: false });

export const proposedTowerOptions = (trial_id: string, setting: string) =>
  api.queryOptions("get", "/api/trials/{trial_id}/tower", { params: { path: { trial_id }, query: { setting } } }, as<Schemas["SeriesView"]>());

export const stepsOptions = (file_id: string, body: Schemas["SeriesIn"]) =>
  api.queryOptions("post", "/api/gcode/{file_id}/steps", { body, params: { path: { file_id } } }, { ...as<Schemas["StepPlan"]>(), ...keep, retry: false });

/** What a trail answered stands at once; what else it may alter is asked anew. */
export function takeTrail(queries: QueryClient, trail: Schemas["TrailView"]): void {
  queries.setQueryData(trailOptions(trail.id).queryKey, trail);
  refresh(queries, "/api/trails", "/api/trails/{trail_id}/next", "/api/day", "/api/sheets/{sheet_id}", "/api/hardware", "/api/spools/{spool_id}", "/api/stock", "/api/materials/{material_id}");
}

/** What a file was made for. */
export interface MadeFor {
  trial?: string | undefined;
  plate?: string | undefined;
}

export function sendGcode(id: string, file: File, madeFor: MadeFor, onShare: (share: number) => void): Promise<Schemas["GcodeJob"]> {
  const query = new URLSearchParams({ name: file.name.slice(-80), ...(madeFor.trial ? { trial_id: madeFor.trial } : {}), ...(madeFor.plate ? { plate_id: madeFor.plate } : {}) });
  return send(`/api/gcode/${id}?${query.toString()}`, file, onShare);
}

interface PhotoSubject {
  kind: Schemas["PhotoView"]["subject_kind"];
  id: string;
  band?: number | undefined;
}

export function sendPhoto(id: string, file: Blob, subject: PhotoSubject): Promise<Schemas["PhotoView"]> {
  const query = new URLSearchParams({ subject_kind: subject.kind, subject_id: subject.id, ...(subject.band ? { band: String(subject.band) } : {}) });
  return send(`/api/photos/${id}?${query.toString()}`, file, () => undefined);
}

export const pictureOf = (id: string, small = false) => `/api/photos/${id}/picture${small ? "?small=true" : ""}`;
