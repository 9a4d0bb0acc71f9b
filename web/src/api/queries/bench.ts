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

export const waitingOptions = () => queryOptions({ queryKey: ["waiting"], queryFn: async ({ signal }) => unwrap<Schemas["WaitingTests"]>(await client.GET("/api/bench", { signal })), refetchInterval: 30000 });

export const racksOptions = () => queryOptions({ queryKey: ["racks"], queryFn: async ({ signal }) => unwrap<Schemas["RackList"]>(await client.GET("/api/racks", { signal })), refetchInterval: 30000 });

export const rackOptions = (rigId: string, blind: boolean) =>
  queryOptions({
    queryKey: ["rack", rigId, blind],
    queryFn: async ({ signal }) => unwrap<Schemas["RackView"]>(await client.GET("/api/racks/{rig_id}", { params: { path: { rig_id: rigId }, query: { station: station(), blind } }, signal })),
    refetchInterval: 15000,
  });

export const previewOptions = (asked: Schemas["PreviewRequest"] | null) =>
  queryOptions({
    queryKey: ["preview", asked],
    queryFn: async ({ signal }) => (asked ? unwrap<Schemas["Preview"]>(await client.POST("/api/previews", { body: asked, signal })) : null),
    enabled: asked !== null,
    placeholderData: (previous) => previous,
    gcTime: 1000,
  });
