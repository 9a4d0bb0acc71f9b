import { infiniteQueryOptions, type QueryClient, queryOptions } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "../client";

export const materialsOptions = () =>
  queryOptions({ queryKey: ["materials"], queryFn: async ({ signal }) => unwrap<Schemas["MaterialPage"]>(await client.GET("/api/materials", { params: { query: { limit: 500 } }, signal })) });

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
    queryFn: async ({ signal }) => unwrap<Schemas["Dossier"]>(await client.GET("/api/materials/{material_id}", { params: { path: { material_id: id } }, signal })),
  });

export const spoolOptions = (id: string) =>
  queryOptions({
    queryKey: ["spool", id],
    queryFn: async ({ signal }) => unwrap<Schemas["SpoolPage"]>(await client.GET("/api/spools/{spool_id}", { params: { path: { spool_id: id } }, signal })),
  });

export const placesOptions = () =>
  queryOptions({ queryKey: ["places"], queryFn: async ({ signal }) => unwrap<Schemas["PlaceList"]>(await client.GET("/api/places", { signal })), refetchInterval: 30000 });

export const preferencesOptions = () =>
  queryOptions({ queryKey: ["preferences"], queryFn: async ({ signal }) => unwrap<Schemas["Preferences"]>(await client.GET("/api/preferences", { signal })) });

/** Everything that a change in the stock may alter. */
export function refreshStock(queries: QueryClient): void {
  for (const key of ["day", "stock", "dossier", "spool", "dryings", "places", "materials"]) void queries.invalidateQueries({ queryKey: [key] });
}

export const intakePreviewOptions = (trial: Schemas["IntakePreviewRequest"]) =>
  queryOptions({
    queryKey: ["intake-trial", trial],
    queryFn: async ({ signal }) => unwrap<Schemas["IntakePreview"]>(await client.POST("/api/intakes/preview", { body: trial, signal })),
    placeholderData: (previous) => previous,
    gcTime: 0,
  });
