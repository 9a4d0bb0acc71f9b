import { useState } from "react";

import { messageOf, Problem, type Schemas, sendCurve } from "../../api/client";
import { newId } from "../../api/ids";
import type { AtEntry } from "./useEntry";

/** The recording of the specimen at hand: read by the server, or kept here until that answers. */
export function useRecording(rigId: string, { entry, change }: AtEntry, onNotice: (text: string | null) => void) {
  const [file, setFile] = useState<File | null>(null);
  const [unclear, setUnclear] = useState<{ problem: Partial<Schemas["Problem"]>; file: File } | null>(null);
  const take = async (chosen: File) => {
    const id = newId();
    setFile(chosen);
    try {
      const curve = await sendCurve(id, rigId, chosen, chosen.name);
      change({ curve: { id: curve.id, name: chosen.name, onServer: true } });
      onNotice(curve.warnings.length ? curve.warnings.join("; ") : null);
      setUnclear(null);
    } catch (error) {
      if (error instanceof Problem && error.unreachable) {
        change({ curve: { id, name: chosen.name, onServer: false } });
        onNotice("the server cannot be reached: the recording is kept here and read when it answers");
      } else if (error instanceof Problem && error.body.file_questions?.length) setUnclear({ problem: error.body, file: chosen });
      else onNotice(messageOf(error));
    }
  };
  /** The file that has to travel with the entry, as the server has not read it yet. */
  const travelling = entry.curve && !entry.curve.onServer && file ? { id: entry.curve.id, rig_version_id: rigId, name: entry.curve.name, file } : null;
  return { name: entry.curve?.name ?? null, take: (chosen: File) => void take(chosen), remove: () => change({ curve: null }), unclear, forget: () => setUnclear(null), travelling };
}

/** A file dropped anywhere on the specimen. */
export function useFileDrop(onFile: (file: File) => void, enabled: boolean) {
  const [over, setOver] = useState(false);
  if (!enabled) return {};
  return {
    "data-over": over || undefined,
    onDragOver: (e: React.DragEvent) => {
      e.preventDefault();
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: (e: React.DragEvent) => {
      e.preventDefault();
      setOver(false);
      const file = e.dataTransfer.files[0];
      if (file) onFile(file);
    },
  };
}
