import { queryOptions } from "@tanstack/react-query";

import { api, as, keep } from "../api";
import { fetchBytes, type Schemas } from "../client";
import { decodeCurves } from "../curves";
import { station } from "../person";

/** `revision` is the run's: after a change it is read anew. */
export const runCurveOptions = (run_id: string, revision: number) =>
  queryOptions({
    queryKey: ["get", "/api/runs/{run_id}/curve", run_id, revision],
    queryFn: async ({ signal }) => decodeCurves(await fetchBytes(`/api/runs/${run_id}/curve`, signal))[0] ?? null,
    placeholderData: (previous) => previous,
  });

export const rawCurveOptions = (curve_id: string) =>
  queryOptions({ queryKey: ["get", "/api/curves/{curve_id}/raw", curve_id], queryFn: async ({ signal }) => decodeCurves(await fetchBytes(`/api/curves/${curve_id}/raw`, signal))[0] ?? null });

export const specimenOptions = (specimen_id: string) => api.queryOptions("get", "/api/specimens/{specimen_id}", { params: { path: { specimen_id } } }, as<Schemas["SpecimenView"]>());

export const queueOptions = (test_id: string, blind: boolean) =>
  api.queryOptions("get", "/api/tests/{test_id}/queue", { params: { path: { test_id }, query: { station: station(), blind } } }, { ...as<Schemas["Queue"]>(), refetchInterval: 15_000 });

export const waitingOptions = () => api.queryOptions("get", "/api/bench", {}, { ...as<Schemas["WaitingTests"]>(), refetchInterval: 30_000 });

export const racksOptions = () => api.queryOptions("get", "/api/racks", {}, { ...as<Schemas["RackList"]>(), refetchInterval: 30_000 });

export const rackOptions = (rig_id: string, blind: boolean) =>
  api.queryOptions("get", "/api/racks/{rig_id}", { params: { path: { rig_id }, query: { station: station(), blind } } }, { ...as<Schemas["RackView"]>(), refetchInterval: 15_000 });

/** Ovens that specimens of a test are in. */
export const ovensOptions = (test_id: string) => api.queryOptions("get", "/api/tests/{test_id}/ovens", { params: { path: { test_id } } }, { ...as<Schemas["OvenList"]>(), refetchInterval: 10_000 });

/** One of them as the server has it; it has none before the first entry arrived. */
export const ovenOptions = (oven_id: string) =>
  api.queryOptions("get", "/api/ovens/{oven_id}", { params: { path: { oven_id } } }, { ...as<Schemas["OvenView"]>(), enabled: oven_id !== "", refetchInterval: 4_000, retry: false });

export const gradingOptions = (test_id: string, blind: boolean) =>
  api.queryOptions("get", "/api/tests/{test_id}/grading", { params: { path: { test_id }, query: { blind } } }, { ...as<Schemas["GradingView"]>(), refetchInterval: 15_000 });

const NOTHING = { test_id: "", rig_version_id: "", specimen_id: "", blind: false, complete: false, confirmed: [], readings: [] };
/** What the server makes of an entry; null asks nothing. */
export const previewOptions = (asked: Schemas["PreviewRequest"] | null) =>
  api.queryOptions("post", "/api/previews", { body: asked ?? NOTHING }, { ...as<Schemas["Preview"]>(), ...keep, enabled: asked !== null, gcTime: 1000 });

export const photosOptions = (subject_kind: Schemas["PhotoView"]["subject_kind"], subject_id: string) =>
  api.queryOptions("get", "/api/photos", { params: { query: { subject_kind, subject_id } } }, as<Schemas["PhotoList"]>());
