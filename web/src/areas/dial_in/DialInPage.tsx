import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { trailsOptions } from "../../api/queries/dialIn";
import { onDay } from "../../ui/format";
import { LinkButton } from "../../ui/LinkButton";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { Swatch } from "../../ui/Swatch";
import { NewTrail } from "./NewTrail";
import css from "./trail.module.css";
import { printsGood } from "./words";

/** All searches for settings, and the tools beside them. */
export function DialInPage() {
  const trails = useQuery(trailsOptions());
  const [adding, setAdding] = useState(false);
  if (trails.isError) return <ErrorNote error={trails.error} again={() => void trails.refetch()} />;
  if (trails.isPending) return <Waiting what="Reading the trails …" />;
  const { items } = trails.data;
  return (
    <div className="page">
      <h1>Dial-in</h1>
      <p className="soft">Find the settings of a material by trials, one change at a time, and keep why.</p>
      <div className={css.tools}>
        {!adding && <Button onClick={() => setAdding(true)}>Begin a trail</Button>}
        <LinkButton to="/dial-in/gcode" variant="default">
          Inspect or step a G-code file
        </LinkButton>
        <LinkButton to="/dial-in/hardware" variant="default">
          Printers, nozzles, bed surfaces
        </LinkButton>
      </div>
      {adding && <NewTrail onCancel={() => setAdding(false)} />}
      {items.length > 0 ? (
        <ul className={css.trails} aria-label="Trails">
          {items.map((t) => (
            <li key={t.id}>
              <Swatch hex={t.material.hex} mark={t.material.mark} filled={t.material.filler !== null} />
              <div>
                <Link to="/dial-in/$trailId" params={{ trailId: t.id }}>
                  <strong>
                    {t.material.maker} {t.material.product}, {t.material.colour}
                  </strong>
                </Link>
                <br />
                <span className="soft">
                  {t.purpose} on {t.printer_name}
                  {t.put_away && " · put away"}
                </span>
              </div>
              <span className="soft" style={{ textAlign: "right" }}>
                {t.trials ? printsGood(t.good, t.trials, t.controls) : "nothing printed yet"}
                {t.last_at && `, the last on ${onDay(t.last_at)}`}
                <br />
                {t.current_number ? `current sheet from trial ${String(t.current_number)}` : "no sheet accepted yet"}
              </span>
            </li>
          ))}
        </ul>
      ) : (
        !adding && <p>There is no trail yet. Begin one with a material and a printer: its first trial starts from the middle of the maker's window.</p>
      )}
    </div>
  );
}
