import { queryOptions } from "@tanstack/react-query";

import { client, fetchBytes, type Schemas, unwrap } from "../client";
import { decodeCurves } from "../curves";
import { station } from "../person";

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
    queryFn: async ({ signal }) => unwrap<Schemas["SpecimenView"]>(await client.GET("/api/specimens/{specimen_id}", { params: { path: { specimen_id: id } }, signal })),
  });

export const queueOptions = (testId: string, blind: boolean) =>
  queryOptions({
    queryKey: ["queue", testId, blind],
    queryFn: async ({ signal }) =>
      unwrap<Schemas["Queue"]>(await client.GET("/api/tests/{test_id}/queue", { params: { path: { test_id: testId }, query: { station: station(), blind } }, signal })),
    refetchInterval: 15000,
  });
