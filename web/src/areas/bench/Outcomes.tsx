import type { Schemas } from "../../api/client";
import { BreakPictogram } from "../../figures/BreakPictogram";
import css from "./bench.module.css";

type Outcome = Schemas["OutcomeView"];

/** In the middle of the part of the specimen that an outcome is in; where the break is drawn while nobody has touched it. */
export function middleOf(outcomes: readonly Outcome[], name: string | null): number | null {
  const place = outcomes.find((o) => o.name === name)?.place;
  return place ? (place[0] + place[1]) / 2 : null;
}

/** Which outcome a touch on the drawing means: places are told from either end. */
export function outcomeAt(outcomes: readonly Outcome[], place: number): string | null {
  const near = Math.min(place, 1 - place);
  return outcomes.find((o) => o.place !== null && o.place[0] <= near && near <= o.place[1])?.name ?? null;
}

interface OutcomesProps {
  outcomes: readonly Outcome[];
  chosen: string | null;
  onChoose: (outcome: string | null) => void;
}

/** How it ended; choosing one again takes it back, and Enter goes on from here. */
export function Outcomes({ outcomes, chosen, onChoose }: OutcomesProps) {
  if (!outcomes.length) return null;
  return (
    <div className={css.breaks} role="group" aria-label="How it ended">
      {outcomes.map((o) => (
        <button
          key={o.name}
          type="button"
          data-outcome={o.name}
          className={css.outcome}
          aria-pressed={chosen === o.name}
          onClick={() => onChoose(chosen === o.name ? null : o.name)}
        >
          {o.symbol && <BreakPictogram symbol={o.symbol} />}
          {o.label}
          {o.bound !== "exact" && ` → ${o.bound.replace("_", " ")}`}
        </button>
      ))}
    </div>
  );
}
