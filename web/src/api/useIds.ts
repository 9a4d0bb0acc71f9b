import { useState } from "react";

import { newId } from "./ids";

/** A file by what can be told of it without reading it. */
export const fileKey = (file: File) => `${file.name} ${String(file.size)} ${String(file.lastModified)}`;

/** Ids of what is being sent, by what it is: pressed twice, or sent again because an answer was lost, it is one thing; once it went through, the next of its kind is another. */
export function useIds() {
  const [known] = useState(() => new Map<string, string>());
  const of = (what: string): string => {
    const id = known.get(what) ?? newId();
    known.set(what, id);
    return id;
  };
  const sent = async <T>(what: string, send: (id: string) => Promise<T>): Promise<T> => {
    const done = await send(of(what));
    known.delete(what);
    return done;
  };
  /** All of it went through: what comes now is another, alike or not. */
  const forget = () => known.clear();
  return { of, sent, forget };
}
