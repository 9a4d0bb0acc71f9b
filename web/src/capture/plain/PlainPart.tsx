import css from "../capture.module.css";
import { NumberField } from "../NumberField";
import { type PartProps, unitOf } from "../parts";

/** Fields one after another, across the specimen. */
export function PlainPart({ step, rig, entry, onValue, wrong, readAs, locked }: PartProps) {
  return (
    <div className={css.plain}>
      {step.fields.flatMap((field) =>
        Array.from({ length: field.usual }, (_, i) => {
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
            >
              <span className="soft">
                {i === 0 ? field.label : i + 1}
              </span>
            </NumberField>
          );
        }),
      )}
    </div>
  );
}
