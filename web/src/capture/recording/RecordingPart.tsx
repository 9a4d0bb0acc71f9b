import { useRef } from "react";

import { W } from "../../figures/drawings/geometry";
import css from "../capture.module.css";
import type { PartProps } from "../parts";

/** A recorded curve instead of the load: dropped anywhere on the page, or chosen here. */
export function RecordingPart({ geometry, recording, dimensionsOnly }: PartProps) {
  const input = useRef<HTMLInputElement>(null);
  if (dimensionsOnly) return null;
  const place = { left: `${(100 * geometry.side.left) / W}%`, width: `${(100 * geometry.side.width) / W}%` };
  if (recording.name) {
    return (
      <div className={css.load} style={place}>
        <div className={css.recording}>
          <div className="soft">recording</div>
          <div style={{ overflowWrap: "anywhere" }}>{recording.name}</div>
          <button type="button" className={css.link} onClick={recording.remove}>
            remove
          </button>
        </div>
      </div>
    );
  }
  return (
    <div className={css.load} style={{ ...place, top: "69%", textAlign: "center" }}>
      <button type="button" className={css.link} onClick={() => input.current?.click()}>
        or drop the recorded curve
      </button>
      <input
        ref={input}
        type="file"
        aria-label="recorded curve"
        style={{ display: "none" }}
        accept=".csv,.txt,.tsv,.dat,.log,text/*"
        onChange={(e) => {
          const file = e.currentTarget.files?.[0];
          e.currentTarget.value = "";
          if (file) recording.take(file);
        }}
      />
    </div>
  );
}
