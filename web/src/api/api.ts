import type { QueryClient } from "@tanstack/react-query";
import createQueryClient from "openapi-react-query";

import { client } from "./client";
import type { paths } from "./schema";

/** Options of queries, made from the server's description: path, parameters and answer are checked against it. */
export const api = createQueryClient(client);

const same = (data: unknown): unknown => data;
/** The client's types turn pairs into lists; an answer is what the description says it is. */
export const as = <T>() => ({ select: same as (data: unknown) => T });
/** What was shown stays until the next answer is there. */
export const keep = { placeholderData: <T>(previous: T) => previous };

type GetPath = { [P in keyof paths]: paths[P] extends { get: unknown } ? P : never }[keyof paths];

/** Asks anew for everything that was read at these paths, whatever its parameters. */
export function refresh(queries: QueryClient, ...read: GetPath[]): void {
  for (const path of read) void queries.invalidateQueries({ queryKey: ["get", path] });
}
