import { queryOptions } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "../client";

export const dayOptions = () =>
  queryOptions({ queryKey: ["day"], queryFn: async ({ signal }) => unwrap<Schemas["DaySheet"]>(await client.GET("/api/day", { signal })), refetchInterval: 30000 });
