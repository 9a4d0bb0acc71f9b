import { queryOptions } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "../client";

export const rigsOptions = () => queryOptions({ queryKey: ["rigs"], queryFn: async ({ signal }) => unwrap<Schemas["RigList"]>(await client.GET("/api/rigs", { signal })) });

export const rigOptions = (id: string) =>
  queryOptions({ queryKey: ["rig", id], queryFn: async ({ signal }) => unwrap<Schemas["RigPage"]>(await client.GET("/api/rigs/{rig_id}", { params: { path: { rig_id: id } }, signal })) });

/** What core declares: methods, outcomes, reasons, roles, units. It changes with the program only. */
export const declarationsOptions = () =>
  queryOptions({ queryKey: ["declarations"], queryFn: async ({ signal }) => unwrap<Schemas["Declarations"]>(await client.GET("/api/declarations", { signal })), staleTime: Infinity });

export const scatterOptions = () => queryOptions({ queryKey: ["scatter"], queryFn: async ({ signal }) => unwrap<Schemas["ScatterList"]>(await client.GET("/api/scatter", { signal })) });
