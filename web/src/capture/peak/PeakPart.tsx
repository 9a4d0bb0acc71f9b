import { W } from "../../figures/drawings/geometry";
import css from "../capture.module.css";
import { NumberField } from "../NumberField";
import { type PartProps, unitOf } from "../parts";

/** The greatest load, at the end that the grip holds; a recording stands for it. */
export function PeakPart({ step, rig, entry, geometry, onValue, wrong, doubts, readAs, dimensionsOnly, recording }: PartProps) {
  const field = step.fields[0];
  if (!field) return null;
  const key = `${field.name}-0`;
  return (
    <div className={css.load} style={{ left: `${(100 * geometry.side.left) / W}%`, width: `${(100 * geometry.side.width) / W}%` }}>
      {recording.name ? null : dimensionsOnly ? (
        <div className="soft">dimensions round: the load comes later</div>
      ) : (
        <NumberField
          name={key}
          label={field.label}
          unit={unitOf(rig, field)}
          value={entry.values[key] ?? ""}
          onChange={(raw) => onValue(key, raw)}
          wrong={wrong.get(key)}
          doubt={doubts.get(key)}
          readAs={readAs.get(key)}
          className={css.peak}
        >
          <span className="soft">{field.label}</span>
        </NumberField>
      )}
    </div>
  );
}
