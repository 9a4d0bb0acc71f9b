import { infiniteQueryOptions, type QueryClient, queryOptions } from "@tanstack/react-query";

import { client, fetchBytes, type Schemas, unwrap } from "./client";
import { decodeCurves } from "./curves";
import { station } from "./person";

/** The board, once more only if it changed: the server answers 304 for the revision we hold. */
const boards = new Map<string, { tag: string; board: BoardData }>();
type BoardData = Schemas["BoardOut"];

function loadBoard(id: string, tag: string | undefined, signal: AbortSignal) {
  return client.GET("/api/studies/{study_id}/board", {
    params: { path: { study_id: id }, header: tag ? { "if-none-match": tag } : {} },
    signal,
  });
}

export const studiesOptions = () =>
  queryOptions({ queryKey: ["studies"], queryFn: async ({ signal }) => unwrap<Schemas["StudyPage"]>(await client.GET("/api/studies", { signal })) });

export const studyOptions = (id: string) =>
  queryOptions({
    queryKey: ["study", id],
    queryFn: async ({ signal }) => unwrap<Schemas["StudyOut"]>(await client.GET("/api/studies/{study_id}", { params: { path: { study_id: id } }, signal })),
  });

export const boardOptions = (id: string) =>
  queryOptions({
    queryKey: ["board", id],
    queryFn: async ({ signal }) => {
      const held = boards.get(id);
      const answer = await loadBoard(id, held?.tag, signal);
      if (answer.response.status === 304 && held) return held.board;
      const board = unwrap<BoardData>(answer);
      boards.set(id, { tag: answer.response.headers.get("etag") ?? "", board });
      return board;
    },
    refetchInterval: 5000,
  });

export const findingsOptions = (testId: string, quantity: string | undefined) =>
  queryOptions({
    queryKey: ["findings", testId, quantity ?? ""],
    queryFn: async ({ signal }) =>
      unwrap<Schemas["FindingsOut"]>(await client.GET("/api/tests/{test_id}/findings", { params: { path: { test_id: testId }, query: quantity ? { quantity } : {} }, signal })),
    placeholderData: (previous) => previous,
  });

export const curvesOptions = (testId: string) =>
  queryOptions({ queryKey: ["curves", testId], queryFn: async ({ signal }) => decodeCurves(await fetchBytes(`/api/tests/${testId}/curves`, signal)) });

export const runCurveOptions = (runId: string, revision: number) =>
  queryOptions({
    queryKey: ["run-curve", runId, revision],
    queryFn: async ({ signal }) => decodeCurves(await fetchBytes(`/api/runs/${runId}/curve`, signal))[0] ?? null,
    placeholderData: (previous) => previous,
  });

export const rawCurveOptions = (curveId: string) =>
  queryOptions({ queryKey: ["raw-curve", curveId], queryFn: async ({ signal }) => decodeCurves(await fetchBytes(`/api/curves/${curveId}/raw`, signal))[0] ?? null });

export const specimenOptions = (id: string) =>
  queryOptions({
    queryKey: ["specimen", id],
    queryFn: async ({ signal }) => unwrap<Schemas["SpecimenOut"]>(await client.GET("/api/specimens/{specimen_id}", { params: { path: { specimen_id: id } }, signal })),
  });

export const queueOptions = (testId: string, blind: boolean) =>
  queryOptions({
    queryKey: ["queue", testId, blind],
    queryFn: async ({ signal }) =>
      unwrap<Schemas["QueueOut"]>(await client.GET("/api/tests/{test_id}/queue", { params: { path: { test_id: testId }, query: { station: station(), blind } }, signal })),
    refetchInterval: 15000,
  });

export const rigsOptions = () => queryOptions({ queryKey: ["rigs"], queryFn: async ({ signal }) => unwrap<Schemas["RigList"]>(await client.GET("/api/rigs", { signal })) });

export const materialsOptions = () =>
  queryOptions({ queryKey: ["materials"], queryFn: async ({ signal }) => unwrap<Schemas["MaterialPage"]>(await client.GET("/api/materials", { params: { query: { limit: 500 } }, signal })) });

export const peopleOptions = () => queryOptions({ queryKey: ["people"], queryFn: async ({ signal }) => unwrap<Schemas["PeopleOut"]>(await client.GET("/api/people", { signal })) });

export const usesOptions = () => queryOptions({ queryKey: ["uses"], queryFn: async ({ signal }) => unwrap<Schemas["UseList"]>(await client.GET("/api/uses", { signal })) });

export const oneUseOptions = (id: string) =>
  queryOptions({
    queryKey: ["use", id],
    queryFn: async ({ signal }) => unwrap<Schemas["UseOut"]>(await client.GET("/api/uses/{use_id}", { params: { path: { use_id: id } }, signal })),
  });

export const rankingOptions = (id: string, weights: Record<string, number>) =>
  queryOptions({
    queryKey: ["ranking", id, weights],
    queryFn: async ({ signal }) =>
      unwrap<Schemas["RankingOut"]>(await client.POST("/api/uses/{use_id}/ranking", { params: { path: { use_id: id } }, body: { weights }, signal })),
    placeholderData: (previous) => previous,
  });

export const dayOptions = () =>
  queryOptions({ queryKey: ["day"], queryFn: async ({ signal }) => unwrap<Schemas["DayOut"]>(await client.GET("/api/day", { signal })), refetchInterval: 30000 });

export interface StockAsked {
  words: string;
  polymer: string;
  filled: boolean | undefined;
  state: "" | "at hand" | "none" | "unchecked" | "fit" | "dry first" | "reject";
  sort: "name" | "price" | "polymer" | "newest";
}
const STOCK_PAGE = 20;

export const stockOptions = (asked: StockAsked) =>
  infiniteQueryOptions({
    queryKey: ["stock", asked],
    initialPageParam: 0,
    queryFn: async ({ pageParam, signal }) => {
      const { filled, ...rest } = asked;
      const query = { ...rest, ...(filled === undefined ? {} : { filled }), limit: STOCK_PAGE, offset: pageParam };
      return unwrap<Schemas["StockPage"]>(await client.GET("/api/stock", { params: { query }, signal }));
    },
    getNextPageParam: (last) => (last.offset + last.items.length < last.total ? last.offset + last.items.length : undefined),
    placeholderData: (previous) => previous,
  });

export const dossierOptions = (id: string) =>
  queryOptions({
    queryKey: ["dossier", id],
    queryFn: async ({ signal }) => unwrap<Schemas["DossierOut"]>(await client.GET("/api/materials/{material_id}", { params: { path: { material_id: id } }, signal })),
  });

export const spoolOptions = (id: string) =>
  queryOptions({
    queryKey: ["spool", id],
    queryFn: async ({ signal }) => unwrap<Schemas["SpoolPage"]>(await client.GET("/api/spools/{spool_id}", { params: { path: { spool_id: id } }, signal })),
  });

export const dryingsOptions = () =>
  queryOptions({ queryKey: ["dryings"], queryFn: async ({ signal }) => unwrap<Schemas["DryingList"]>(await client.GET("/api/dryings", { signal })), refetchInterval: 30000 });

export const placesOptions = () =>
  queryOptions({ queryKey: ["places"], queryFn: async ({ signal }) => unwrap<Schemas["PlaceList"]>(await client.GET("/api/places", { signal })), refetchInterval: 30000 });

export const printersOptions = () =>
  queryOptions({ queryKey: ["printers"], queryFn: async ({ signal }) => unwrap<Schemas["PrinterList"]>(await client.GET("/api/printers", { signal })) });

export const preferencesOptions = () =>
  queryOptions({ queryKey: ["preferences"], queryFn: async ({ signal }) => unwrap<Schemas["PreferencesOut"]>(await client.GET("/api/preferences", { signal })) });

/** Everything that a change in the stock may alter. */
export function refreshStock(queries: QueryClient): void {
  for (const key of ["day", "stock", "dossier", "spool", "dryings", "places", "materials"]) void queries.invalidateQueries({ queryKey: [key] });
}

export const intakeTrialOptions = (trial: Schemas["IntakeTrial"]) =>
  queryOptions({
    queryKey: ["intake-trial", trial],
    queryFn: async ({ signal }) => unwrap<Schemas["IntakeTrialOut"]>(await client.POST("/api/intakes/trial", { body: trial, signal })),
    placeholderData: (previous) => previous,
    gcTime: 0,
  });

export const fitOptions = (asked: Schemas["FitQuestion"], revision: number) =>
  queryOptions({
    queryKey: ["fit", asked, revision],
    queryFn: async ({ signal }) => unwrap<Schemas["FitOut"]>(await client.POST("/api/fit", { body: asked, signal })),
    placeholderData: (previous) => previous,
  });
