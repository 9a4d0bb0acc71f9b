import { SegmentedControl } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";

import type { Schemas } from "../../api/client";
import { declarationsOptions } from "../../api/queries/rigs";
import { setting } from "../../ui/format";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { chooseUnits, useUnits } from "../../ui/units";
import css from "./rigs.module.css";

/** What each choice is tried on: a value that everybody of the trade can picture. */
const TRIED: Record<string, readonly (readonly [number, string, string])[]> = {
  stress: [[45.7, "MPa", "a pull bar's strength"]],
  force: [[1994, "N", "the force at its peak"]],
  length: [[4.02, "mm", "its thickness"]],
  temperature: [[215, "°C", "a nozzle"]],
  mass: [[985, "g", "a spool's filament"]],
  speed: [[60, "mm/s", "printing"], [12, "mm³/s", "what a nozzle melts"]],
};

/** The one place where it is chosen in which units this browser shows things. */
export function UnitsPage() {
  const declared = useQuery(declarationsOptions());
  const chosen = useUnits();
  if (declared.isPending) return <Waiting what="Reading the units …" />;
  if (declared.isError) return <ErrorNote error={declared.error} again={() => void declared.refetch()} />;
  return (
    <div className="page">
      <h1>Units shown</h1>
      <p className="soft" style={{ maxWidth: 660 }}>
        Figures, tables and what is downloaded from them follow at once, in this browser alone. What is kept does not change, and what is typed keeps the unit that stands beside its field: a rig&apos;s entries are what its display shows.
      </p>
      {declared.data.shown.map((choice) => (
        <Choice key={choice.name} choice={choice} chosen={chosen[choice.name]} />
      ))}
    </div>
  );
}

const words = (option: readonly Schemas["ShownUnit"][]): string => option.map((u) => u.unit).join(" · ");

function Choice({ choice, chosen }: { choice: Schemas["UnitChoice"]; chosen: readonly Schemas["ShownUnit"][] | undefined }) {
  const [kept] = choice.options;
  if (!kept) return null;
  const take = (wanted: string) => {
    const option = choice.options.find((o) => words(o) === wanted);
    chooseUnits(choice.name, !option || option === kept ? null : option);
  };
  return (
    <section className={css.units} aria-label={choice.label}>
      <h2>{choice.label}</h2>
      <SegmentedControl aria-label={choice.label} value={words(chosen ?? kept)} onChange={take} data={choice.options.map(words)} />
      <p className={css.tried}>
        {(TRIED[choice.name] ?? []).map(([value, unit, of]) => (
          <span key={unit}>
            <span className="soft">{of}</span> <span className="figure">{setting(value, unit)}</span>
          </span>
        ))}
      </p>
    </section>
  );
}
