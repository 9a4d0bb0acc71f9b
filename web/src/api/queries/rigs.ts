import { queryOptions } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "../client";

export const rigsOptions = () => queryOptions({ queryKey: ["rigs"], queryFn: async ({ signal }) => unwrap<Schemas["RigList"]>(await client.GET("/api/rigs", { signal })) });
