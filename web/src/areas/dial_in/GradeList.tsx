import type { Schemas } from "../../api/client";
import { short } from "../../ui/format";
import css from "./trail.module.css";
import { lowestFirst } from "./words";

/** Every grade of a trial, the lowest first. */
export function GradeList({ grades, traits }: { grades: Readonly<Record<string, number>>; traits: readonly Schemas["TraitView"][] }) {
  const sorted = lowestFirst(grades, traits);
  if (!sorted.length) return null;
  return (
    <ul className={css.gradeList} aria-label="Grades, the lowest first">
      {sorted.map(({ trait, grade }) => (
        <li key={trait.name} data-low={grade < 1.5 || undefined} title={trait.steps[Math.round(grade)] ?? ""}>
          <span>{trait.short}</span> <strong className="figure">{short(grade)}</strong> <span className="soft">of 4</span>
        </li>
      ))}
    </ul>
  );
}
