import { W } from "../../figures/drawings/geometry";
import css from "../capture.module.css";
import { NumberField } from "../NumberField";
import { type PartProps, unitOf } from "../parts";

/** Dimensions of the section where the calliper goes: the first field above the specimen, the second below. */
export function SectionPart({ step, rig, entry, geometry, onValue, wrong, readAs, locked }: PartProps) {
  const rows = step.fields.filter((f) => f.usual > 0 && f.from_rig === null).slice(0, 2);
  return rows.map((field, row) => (
    <fieldset key={field.name} className={css.row} style={row === 0 ? { top: 0 } : { bottom: 0 }}>
      <legend className="visually-hidden">{field.label}</legend>
      {geometry.columns.slice(0, field.usual).map((x, i) => {
        const key = `${field.name}-${i}`;
        return (
          <NumberField
            key={key}
            name={key}
            label={`${field.label} ${i + 1}`}
            unit={unitOf(rig, field)}
            value={entry.values[key] ?? ""}
            onChange={(raw) => onValue(key, raw)}
            wrong={wrong.get(key)}
            readAs={readAs.get(key)}
            readOnly={locked.has(key)}
            style={{ left: `${(100 * x) / W}%` }}
          >
            <span className={i === 0 ? css.first : "visually-hidden"}>
              {field.label}
              <span className="visually-hidden"> {i + 1}</span>
            </span>
          </NumberField>
        );
      })}
    </fieldset>
  ));
}
