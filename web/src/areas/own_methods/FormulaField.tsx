import type { Schemas } from "../../api/client";
import css from "./own.module.css";

interface FormulaFieldProps {
  label: string;
  value: string;
  fault: Schemas["OwnFault"] | undefined;
  onChange: (text: string) => void;
}

/** A formula as it is written; where it is wrong, that place is marked under it, with the words. */
export function FormulaField({ label, value, fault, onChange }: FormulaFieldProps) {
  const at = fault && fault.start !== null && fault.end !== null ? [Math.min(fault.start, value.length), Math.max(fault.end, fault.start + 1)] : null;
  return (
    <div className={css.formula}>
      <input aria-label={label} aria-invalid={fault !== undefined || undefined} value={value} spellCheck={false} autoComplete="off" maxLength={1000} onChange={(e) => onChange(e.currentTarget.value)} />
      {at && (
        <div className={css.under} aria-hidden="true">
          {value.slice(0, at[0])}
          <mark>{value.slice(at[0], at[1]) || " "}</mark>
          {value.slice(at[1])}
        </div>
      )}
      {fault && (
        <p role="alert" className={css.fault}>
          {fault.text}
          {at && value.slice(at[0], at[1]) && <> — at “{value.slice(at[0], at[1])}”</>}
        </p>
      )}
    </div>
  );
}
