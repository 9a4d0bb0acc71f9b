import { infiniteQueryOptions, type QueryClient } from "@tanstack/react-query";

import { api, as, keep, refresh } from "../api";
import { client, type Schemas, unwrap } from "../client";

export const materialsOptions = () => api.queryOptions("get", "/api/materials", { params: { query: { limit: 500 } } }, as<Schemas["MaterialPage"]>());

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
    queryKey: ["get", "/api/stock", asked],
    initialPageParam: 0,
    queryFn: async ({ pageParam, signal }) => {
      const { filled, ...rest } = asked;
      const query = { ...rest, ...(filled === undefined ? {} : { filled }), limit: STOCK_PAGE, offset: pageParam };
      return unwrap<Schemas["StockPage"]>(await client.GET("/api/stock", { params: { query }, signal }));
    },
    getNextPageParam: (last) => (last.offset + last.items.length < last.total ? last.offset + last.items.length : undefined),
    ...keep,
  });

export const dossierOptions = (material_id: string) => api.queryOptions("get", "/api/materials/{material_id}", { params: { path: { material_id } } }, as<Schemas["Dossier"]>());

export const spoolOptions = (spool_id: string) => api.queryOptions("get", "/api/spools/{spool_id}", { params: { path: { spool_id } } }, as<Schemas["SpoolPage"]>());

export const wetnessOptions = (spool_id: string) => api.queryOptions("get", "/api/spools/{spool_id}/wetness", { params: { path: { spool_id } } }, as<Schemas["WetView"][]>());

export const placesOptions = () => api.queryOptions("get", "/api/places", {}, { ...as<Schemas["PlaceList"]>(), refetchInterval: 30_000 });

export const preferencesOptions = () => api.queryOptions("get", "/api/preferences", {}, as<Schemas["Preferences"]>());

export const intakePreviewOptions = (body: Schemas["IntakePreviewRequest"]) => api.queryOptions("post", "/api/intakes/preview", { body }, { ...as<Schemas["IntakePreview"]>(), ...keep, gcTime: 0 });

/** Everything that a change in the stock may alter. */
export function refreshStock(queries: QueryClient): void {
  refresh(queries, "/api/day", "/api/stock", "/api/materials/{material_id}", "/api/spools/{spool_id}", "/api/spools/{spool_id}/wetness", "/api/trails/{trail_id}", "/api/dryings", "/api/places", "/api/materials");
}
