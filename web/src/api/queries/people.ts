import { queryOptions } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "../client";

export const peopleOptions = () => queryOptions({ queryKey: ["people"], queryFn: async ({ signal }) => unwrap<Schemas["People"]>(await client.GET("/api/people", { signal })) });
