import { queryOptions } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "../client";

export const purposesOptions = () => queryOptions({ queryKey: ["uses"], queryFn: async ({ signal }) => unwrap<Schemas["PurposeList"]>(await client.GET("/api/purposes", { signal })) });

export const purposeOptions = (id: string) =>
  queryOptions({
    queryKey: ["use", id],
    queryFn: async ({ signal }) => unwrap<Schemas["PurposeView"]>(await client.GET("/api/purposes/{purpose_id}", { params: { path: { purpose_id: id } }, signal })),
  });

export const rankingOptions = (id: string, weights: Record<string, number>) =>
  queryOptions({
    queryKey: ["ranking", id, weights],
    queryFn: async ({ signal }) =>
      unwrap<Schemas["Ranking"]>(await client.POST("/api/purposes/{purpose_id}/ranking", { params: { path: { purpose_id: id } }, body: { weights }, signal })),
    placeholderData: (previous) => previous,
  });
