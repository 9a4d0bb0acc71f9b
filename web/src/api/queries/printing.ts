import { api, as, keep } from "../api";
import type { Schemas } from "../client";

export const printersOptions = () => api.queryOptions("get", "/api/printers", {}, as<Schemas["PrinterList"]>());

/** `revision` is that of the spool and the printer: after a change it is asked anew. */
export const fitOptions = (body: Schemas["FitQuestion"], revision: string) => api.queryOptions("post", "/api/fit", { body, revision }, { ...as<Schemas["FitView"]>(), ...keep });

export const printPlanOptions = (study_id: string) => api.queryOptions("get", "/api/studies/{study_id}/print-plan", { params: { path: { study_id } } }, as<Schemas["PrintPlan"]>());

export const platesOptions = (study_id: string) => api.queryOptions("get", "/api/studies/{study_id}/plates", { params: { path: { study_id } } }, as<Schemas["PlateList"]>());

export const batchesOptions = (study_id: string) => api.queryOptions("get", "/api/studies/{study_id}/batches", { params: { path: { study_id } } }, as<Schemas["BatchList"]>());

export const shapesOptions = () => api.queryOptions("get", "/api/shapes", {}, as<Schemas["ShapeList"]>());

/** A shape in sizes of one's own, told as name=value. */
export const shapeSheetOptions = (name: string, size: readonly string[]) => api.queryOptions("get", "/api/shapes/{name}/sheet", { params: { path: { name }, query: { size: [...size] } } }, { ...as<Schemas["ShapeSheet"]>(), ...keep });
