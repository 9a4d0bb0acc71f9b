import { W } from "../../figures/drawings/geometry";
import css from "../capture.module.css";
import type { PartProps } from "../parts";
import { Place } from "../Place";

/** Where the calliper goes: once, in the middle. */
const columnsFor = (columns: readonly number[], usual: number): readonly number[] => (usual === 1 ? [columns[Math.floor(columns.length / 2)] ?? 0] : columns.slice(0, usual));

/** Dimensions of the section where the calliper goes: the first field above the specimen, the second below. */
export function SectionPart(part: PartProps) {
  const rows = part.step.fields.filter((f) => f.usual > 0 && f.from_rig === null).slice(0, 2);
  return rows.map((field, row) => (
    <fieldset key={field.name} className={css.row} style={row === 0 ? { top: 0 } : { bottom: 0 }}>
      <legend className="visually-hidden">{field.label}</legend>
      {columnsFor(part.geometry.columns, field.usual).map((x, i) => (
        <Place key={x} part={part} field={field} position={i} style={{ left: `${String((100 * x) / W)}%` }}>
          <span className={i === 0 ? css.first : "visually-hidden"}>
            {field.label}
            <span className="visually-hidden"> {i + 1}</span>
          </span>
        </Place>
      ))}
    </fieldset>
  ));
}
