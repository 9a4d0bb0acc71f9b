import type { Schemas } from "../../api/client";
import css from "./record.module.css";

interface GradesProps {
  traits: readonly Schemas["TraitView"][];
  grades: Readonly<Record<string, number | null>>;
  onGrade: (trait: string, grade: number | null | undefined) => void;
  /** Said before every field, such as "band 3". */
  about?: string;
}

/** A row of five steps for every trait: 0 to 4 by key or by hand, each step described; the next trait follows. */
export function Grades({ traits, grades, onGrade, about }: GradesProps) {
  const keys = (e: React.KeyboardEvent<HTMLFieldSetElement>, trait: string, at: number) => {
    const digit = /^[0-4]$/.test(e.key) ? Number(e.key) : e.key.toLowerCase() === "n" ? null : undefined;
    if (digit === undefined) {
      if (e.key !== "Backspace" && e.key !== "Delete") return;
      e.preventDefault();
      return onGrade(trait, undefined);
    }
    e.preventDefault();
    onGrade(trait, digit);
    const rows = e.currentTarget.parentElement?.querySelectorAll<HTMLElement>("fieldset");
    rows?.[at + 1]?.querySelector<HTMLInputElement>("input")?.focus();
  };
  return (
    <div className={css.grades}>
      {traits.map((t, at) => {
        const grade = grades[t.name];
        return (
          <fieldset key={t.name} className={css.trait} onKeyDown={(e) => keys(e, t.name, at)}>
            <legend>{about ? `${about}: ${t.label}` : t.label}</legend>
            <span className={css.name} aria-hidden="true">
              {t.label}
            </span>
            <span className={css.steps}>
              {t.steps.map((step, n) => (
                <label key={n} title={step} data-on={grade === n || undefined}>
                  <input type="radio" name={`${about ?? ""}${t.name}`} checked={grade === n} onChange={() => onGrade(t.name, n)} aria-label={`${String(n)}: ${step}`} />
                  {n}
                </label>
              ))}
              <label title="no difference seen" data-on={grade === null || undefined}>
                <input type="radio" name={`${about ?? ""}${t.name}`} checked={grade === null} onChange={() => onGrade(t.name, null)} aria-label="no difference seen" />n
              </label>
            </span>
            <span className={css.described}>{grade === undefined ? `0 ${t.steps[0] ?? ""} … 4 ${t.steps[4] ?? ""}` : grade === null ? "no difference seen" : t.steps[grade]}</span>
            {t.caution && <span className={css.traitCaution}>{t.caution}</span>}
          </fieldset>
        );
      })}
    </div>
  );
}
