import css from "../capture.module.css";
import type { PartProps } from "../parts";
import { Place } from "../Place";

/** Fields one after another, in a row under the specimen that shows where they are taken. */
export function PlainPart(part: PartProps) {
  return (
    <div className={css.plain}>
      {part.step.fields.map((field) => (
        <fieldset key={field.name}>
          <legend className="soft">{field.label}</legend>
          {Array.from({ length: field.usual }, (_, i) => (
            <Place key={i} part={part} field={field} position={i}>
              {field.usual > 1 && <span className="soft">{i + 1}</span>}
            </Place>
          ))}
        </fieldset>
      ))}
    </div>
  );
}
