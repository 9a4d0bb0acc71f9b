import { queryOptions } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "../client";

export const dryingsOptions = () =>
  queryOptions({ queryKey: ["dryings"], queryFn: async ({ signal }) => unwrap<Schemas["DryingList"]>(await client.GET("/api/dryings", { signal })), refetchInterval: 30000 });
