import { queryOptions } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "../client";

export const printersOptions = () =>
  queryOptions({ queryKey: ["printers"], queryFn: async ({ signal }) => unwrap<Schemas["PrinterList"]>(await client.GET("/api/printers", { signal })) });

export const fitOptions = (asked: Schemas["FitQuestion"], revision: number) =>
  queryOptions({
    queryKey: ["fit", asked, revision],
    queryFn: async ({ signal }) => unwrap<Schemas["FitView"]>(await client.POST("/api/fit", { body: asked, signal })),
    placeholderData: (previous) => previous,
  });

export const printPlanOptions = (studyId: string) =>
  queryOptions({
    queryKey: ["print-plan", studyId],
    queryFn: async ({ signal }) => unwrap<Schemas["PrintPlan"]>(await client.GET("/api/studies/{study_id}/print-plan", { params: { path: { study_id: studyId } }, signal })),
  });
