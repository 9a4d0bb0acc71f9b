import createClient from "openapi-fetch";

import { person } from "./person";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

/** What the server says went wrong (RFC 9457), or that it could not be reached. */
export class Problem extends Error {
  readonly status: number;
  readonly field: string | undefined;
  readonly body: Partial<Schemas["Problem"]>;

  constructor(status: number, body: Partial<Schemas["Problem"]>) {
    super(body.detail ?? "The server could not be reached: check that Assayer is running.");
    this.status = status;
    this.field = body.field ?? undefined;
    this.body = body;
  }

  /** True if the request never got an answer, so that sending it again later makes sense. */
  get unreachable(): boolean {
    return this.status === 0 || this.status === 502 || this.status === 503 || this.status === 504;
  }
}

export function identity(): Record<string, string> {
  return {
    "Assayer-Person": encodeURIComponent(person() || "somebody"),
    "Assayer-Zone": Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC",
  };
}

export const client = createClient<paths>({
  fetch: async (request) => {
    try {
      return await fetch(request);
    } catch {
      throw new Problem(0, {});
    }
  },
});
client.use({
  onRequest({ request }) {
    // what was entered by somebody is sent under their name
    for (const [name, value] of Object.entries(identity())) if (!request.headers.has(name)) request.headers.set(name, value);
    return request;
  },
  /** What the server refuses is thrown, with its words; 304 is an answer of its own. */
  async onResponse({ response }) {
    if (response.ok || response.status === 304) return;
    throw new Problem(response.status, (await response.clone().json().catch(() => ({}))) as Partial<Schemas["Problem"]>);
  },
});

/** The client's types turn pairs into lists; this does the same, so that a pair can be told to be one again. */
type Loose<T> = T extends (infer E)[] ? Loose<E>[] : T extends object ? { [K in keyof T]: Loose<T[K]> } : T;

interface Answer<T> {
  data?: Loose<T>;
  error?: unknown;
  response: Response;
}

/** The data of an answer: what was refused has been thrown before. */
export function unwrap<T>(answer: Answer<T>): T {
  return answer.data as T;
}

/** Bytes from the server, for curves. */
export async function fetchBytes(path: string, signal?: AbortSignal): Promise<ArrayBuffer> {
  let response: Response;
  try {
    response = await fetch(path, { headers: identity(), signal: signal ?? null });
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new Problem(0, {});
  }
  if (!response.ok) throw new Problem(response.status, (await response.json().catch(() => ({}))) as Partial<Schemas["Problem"]>);
  return response.arrayBuffer();
}

/** Send the bytes of a recording, under the name of who dropped it. */
export async function sendCurve(id: string, rigVersionId: string, file: Blob, name: string, log = false, by = identity()): Promise<Schemas["RecordingView"]> {
  const query = new URLSearchParams({ rig_version_id: rigVersionId, file_name: name.slice(-200), ...(log ? { log: "true" } : {}) });
  let response: Response;
  try {
    response = await fetch(`/api/curves/${id}?${query.toString()}`, {
      method: "PUT",
      headers: { ...by, "Content-Type": "application/octet-stream" },
      body: file,
    });
  } catch {
    throw new Problem(0, {});
  }
  const body: unknown = await response.json().catch(() => ({}));
  if (!response.ok) throw new Problem(response.status, body as Partial<Schemas["Problem"]>);
  return body as Schemas["RecordingView"];
}

export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
