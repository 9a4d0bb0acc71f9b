import { Popover } from "@mantine/core";
import { useState } from "react";

import type { Schemas } from "../api/client";
import css from "./capture.module.css";
import { NumberField } from "./NumberField";
import { type PartProps, unitOf } from "./parts";

type FieldView = Schemas["FieldView"];

/** Fields that are seldom read, and that no rig, clock or print tells: a length by hand, how the notch was made. */
export const furtherFields = (steps: readonly Schemas["StepView"][]): FieldView[] =>
  steps.flatMap((s) => (s.kind === "ramp" || s.kind === "swing" ? [] : s.fields.filter((f) => f.usual === 0 && f.from_rig === null && f.counts_from === null && !f.by_about && !f.by_load)));

/** What may be told of a specimen besides, behind a button beside its drawing; what was told stands on the button. */
export function FurtherFields({ steps, part }: { steps: readonly Schemas["StepView"][]; part: Omit<PartProps, "step"> }) {
  const fields = furtherFields(steps);
  const [opened, setOpened] = useState(false);
  if (!fields.length || part.dimensionsOnly) return null;
  const told = fields.filter((f) => (part.entry.values[`${f.name}-0`] ?? "") !== "");
  const wrong = fields.some((f) => part.wrong.has(`${f.name}-0`));
  return (
    <Popover opened={opened || wrong} onChange={setOpened} position="bottom-end" trapFocus returnFocus withinPortal={false}>
      <Popover.Target>
        <button type="button" className={css.furtherButton} aria-expanded={opened} onClick={() => setOpened((o) => !o)}>
          {told.length ? told.map((f) => `${f.label}: ${said(f, part)}`).join(", ") : `also: ${fields.map((f) => f.label).join(", ")}`}
        </button>
      </Popover.Target>
      <Popover.Dropdown>
        <div className={css.furtherFields}>
          {fields.map((field) => (
            <Further key={field.name} field={field} part={part} />
          ))}
        </div>
      </Popover.Dropdown>
    </Popover>
  );
}

function said(field: FieldView, part: Omit<PartProps, "step">): string {
  const value = part.entry.values[`${field.name}-0`] ?? "";
  return field.yes_no ? (value === "1" ? "yes" : "no") : `${value} ${unitOf(part.rig, field)}`;
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
    <NumberField name={key} label={field.label} unit={unitOf(part.rig, field)} value={value} onChange={(raw) => part.onValue(key, raw)} wrong={part.wrong.get(key)} doubt={part.doubts.get(key)} readAs={part.readAs.get(key)} readOnly={part.locked.has(key)}>
      <span className={css.over}>{field.label}</span>
    </NumberField>
  );
}
