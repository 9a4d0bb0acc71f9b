import { queryOptions } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "../client";

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
