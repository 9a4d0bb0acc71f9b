import { queryOptions } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "../client";

export const purposesOptions = () => queryOptions({ queryKey: ["purposes"], queryFn: async ({ signal }) => unwrap<Schemas["PurposeList"]>(await client.GET("/api/purposes", { signal })) });

export const criteriaOptions = (studyId: string) =>
  queryOptions({
    queryKey: ["criteria", studyId],
    queryFn: async ({ signal }) => unwrap<Schemas["CriterionOptions"]>(await client.GET("/api/studies/{study_id}/criteria", { params: { path: { study_id: studyId } }, signal })),
  });

export const purposeOptions = (id: string) =>
  queryOptions({
    queryKey: ["purpose", id],
    queryFn: async ({ signal }) => unwrap<Schemas["PurposeView"]>(await client.GET("/api/purposes/{purpose_id}", { params: { path: { purpose_id: id } }, signal })),
  });

export const rankingOptions = (id: string, weights: Record<string, number>) =>
  queryOptions({
    queryKey: ["ranking", id, weights],
    queryFn: async ({ signal }) =>
      unwrap<Schemas["Ranking"]>(await client.POST("/api/purposes/{purpose_id}/ranking", { params: { path: { purpose_id: id } }, body: { weights }, signal })),
    placeholderData: (previous) => previous,
  });
