import css from "./capture.module.css";

interface NumberFieldProps {
  /** "field-position": how keys, scanner and server call this place. */
  name: string;
  /** Said by screen readers, with the unit. */
  label: string;
  unit: string;
  value: string;
  onChange: (raw: string) => void;
  wrong?: string | undefined;
  /** Why it is in doubt: it may be right all the same. */
  doubt?: string | undefined;
  readAs?: string | undefined;
  readOnly?: boolean;
  className?: string | undefined;
  style?: React.CSSProperties | undefined;
  /** The time for it has come. */
  due?: boolean;
  /** What stands for it while nothing is typed. */
  instead?: string | undefined;
  children?: React.ReactNode;
}

/** One entry in figures that can be read at arm's length, with the unit the rig shows. */
export function NumberField({ name, label, unit, value, onChange, wrong, doubt, readAs, readOnly = false, className, style, due = false, instead, children }: NumberFieldProps) {
  return (
    <label className={`${css.entry ?? ""} ${className ?? ""}`} style={style} data-wrong={wrong !== undefined || undefined} data-doubt={doubt !== undefined || undefined} data-due={due || undefined}>
      {children}
      <input
        name={name}
        data-entry
        aria-label={`${label}, ${unit}`}
        aria-invalid={wrong !== undefined || undefined}
        inputMode="decimal"
        autoComplete="off"
        value={value}
        placeholder={instead}
        readOnly={readOnly}
        onChange={(e) => onChange(e.currentTarget.value)}
        title={wrong ?? doubt}
      />
      <span className={css.unit}>{unit}</span>
      {doubt !== undefined && wrong === undefined && <span className={css.doubt}>{doubt}</span>}
      {readAs && <span className={css.readAs}>{readAs}</span>}
    </label>
  );
}
