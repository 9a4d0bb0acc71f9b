import { identity, Problem, type Schemas } from "../client";
import { newId } from "../ids";

/** Sends files together: length of a JSON head, the head with id, name and size of each, then the files as they are. */
export async function sendMany(testId: string, rigVersionId: string, files: readonly File[], taken: readonly string[]): Promise<Schemas["ManyRow"][]> {
  const head = new TextEncoder().encode(JSON.stringify({ files: files.map((f) => ({ id: newId(), name: f.name, size: f.size })) }));
  const length = new DataView(new ArrayBuffer(4));
  length.setUint32(0, head.length, true);
  const query = new URLSearchParams([["rig_version_id", rigVersionId], ...taken.map((t) => ["taken", t] as [string, string])]);
  let response: Response;
  try {
    response = await fetch(`/api/tests/${testId}/curves?${query.toString()}`, {
      method: "POST",
      headers: { ...identity(), "Content-Type": "application/octet-stream" },
      body: new Blob([length, head, ...files]),
    });
  } catch {
    throw new Problem(0, {});
  }
  const body: unknown = await response.json().catch(() => ({}));
  if (!response.ok) throw new Problem(response.status, body as Partial<Schemas["Problem"]>);
  return (body as Schemas["ManyCurves"]).items;
}
