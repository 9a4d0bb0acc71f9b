import type { Schemas } from "../api/client";
import css from "./capture.module.css";
import { NumberField } from "./NumberField";
import { type PartProps, unitOf } from "./parts";

type FieldView = Schemas["FieldView"];

/** Fields that are seldom read, and that no rig, clock or print tells: a length by hand, how the notch was made. */
export const furtherFields = (steps: readonly Schemas["StepView"][]): FieldView[] =>
  steps.flatMap((s) => (s.kind === "ramp" || s.kind === "swing" ? [] : s.fields.filter((f) => f.usual === 0 && f.from_rig === null && f.counts_from === null && !f.by_about && !f.by_load)));

/** What may be told of a specimen besides, under its drawing; folded away until somebody has something to tell. */
export function FurtherFields({ steps, part }: { steps: readonly Schemas["StepView"][]; part: Omit<PartProps, "step"> }) {
  const fields = furtherFields(steps);
  if (!fields.length || part.dimensionsOnly) return null;
  const told = fields.some((f) => (part.entry.values[`${f.name}-0`] ?? "") !== "");
  return (
    <details className={css.further} open={told || undefined}>
      <summary>Also: {fields.map((f) => f.label).join(", ")}</summary>
      <div className={css.furtherFields}>
        {fields.map((field) => (
          <Further key={field.name} field={field} part={part} />
        ))}
      </div>
    </details>
  );
}

function Further({ field, part }: { field: FieldView; part: Omit<PartProps, "step"> }) {
  const key = `${field.name}-0`;
  const value = part.entry.values[key] ?? "";
  if (field.yes_no)
    return (
      <label className={css.furtherChoice}>
        {field.label}
        <select name={key} value={value} onChange={(e) => part.onValue(key, e.currentTarget.value)}>
          <option value="">not recorded</option>
          <option value="1">yes</option>
          <option value="0">no</option>
        </select>
      </label>
    );
  return (
    <NumberField name={key} label={field.label} unit={unitOf(part.rig, field)} value={value} onChange={(raw) => part.onValue(key, raw)} wrong={part.wrong.get(key)} readAs={part.readAs.get(key)} readOnly={part.locked.has(key)}>
      <span className={css.over}>{field.label}</span>
    </NumberField>
  );
}
