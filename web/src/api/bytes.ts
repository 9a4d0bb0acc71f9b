import { identity, Problem, type Schemas } from "./client";

/** Send the bytes of a file as they are, telling how many went. */
export function send<T>(path: string, body: Blob, onShare: (share: number) => void): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("PUT", path);
    for (const [name, value] of Object.entries(identity())) request.setRequestHeader(name, value);
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.responseType = "json";
    request.upload.onprogress = (e) => onShare(e.lengthComputable ? e.loaded / e.total : 0);
    request.onerror = () => reject(new Problem(0, {}));
    request.onload = () => {
      if (request.status >= 200 && request.status < 300) resolve(request.response as T);
      else reject(new Problem(request.status, (request.response ?? {}) as Partial<Schemas["Problem"]>));
    };
    request.send(body);
  });
}
