import { useId } from "react";

import css from "./intake.module.css";

interface ChoiceProps<T extends string> {
  label: string;
  /** Said beside the label, small. */
  hint?: string;
  options: readonly { value: T; label: string }[];
  value: T | "";
  onChange: (value: T) => void;
  /** Go on to the next field; called after a digit chose. */
  onDone?: (from: HTMLElement) => void;
}

/** One of a few: by digit, by arrow keys, by touch. */
export function Choice<T extends string>({ label, hint, options, value, onChange, onDone }: ChoiceProps<T>) {
  const name = useId();
  return (
    <fieldset
      className={css.choice}
      data-step
      onKeyDown={(e) => {
        const picked = options[Number(e.key) - 1];
        if (!/^[1-9]$/.test(e.key) || !picked) return;
        e.preventDefault();
        onChange(picked.value);
        onDone?.(e.currentTarget);
      }}
    >
      <legend>
        {label} {hint && <span className="soft">{hint}</span>}
      </legend>
      <div className={css.options}>
        {options.map((o, i) => (
          <label key={o.value} className={css.option} data-chosen={value === o.value || undefined}>
            <input type="radio" name={name} value={o.value} checked={value === o.value} onChange={() => onChange(o.value)} />
            <kbd>{i + 1}</kbd> {o.label}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
