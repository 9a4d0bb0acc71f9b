import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";

import type { Schemas } from "../../api/client";
import { racksOptions } from "../../api/queries/bench";
import { atMinute } from "../../ui/format";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import css from "./round.module.css";

const WORDS: Record<Schemas["RackItem"]["state"], string> = { empty: "empty", ahead: "nothing due", early: "soon to be read", due: "to be read now", late: "late" };

/** The racks: what hangs on each, and when somebody should walk past. */
export function RacksPage() {
  const racks = useQuery(racksOptions());
  if (racks.isPending) return <Waiting what="Looking at the racks …" />;
  if (racks.isError) return <ErrorNote error={racks.error} again={() => void racks.refetch()} />;
  if (!racks.data.items.length) {
    return (
      <Empty title="There is no rack yet">
        Creep and exposure are read over days, on a rack or in a bath with places.{" "}
        <Link to="/rigs/new" search={{ method: "creep" }}>
          Add the rack
        </Link>{" "}
        with its display and its places.
      </Empty>
    );
  }
  return (
    <div className="page">
      <h1>Rounds over racks and baths</h1>
      <ul className={css.racks}>
        {racks.data.items.map((r) => (
          <li key={r.rig_id}>
            <Link to="/bench/racks/$rigId" params={{ rigId: r.rig_id }} className={css.rackLink} data-state={r.state}>
              <strong>{r.name}</strong>
              <svg viewBox={`0 0 ${r.places * 22} 34`} width={r.places * 22} height="34" aria-hidden="true">
                {r.weights ? <path d={`M0 4H${r.places * 22}`} stroke="var(--ink)" strokeWidth="3" /> : <path d={`M1 4V33H${r.places * 22 - 1}V4M1 10H${r.places * 22 - 1}`} fill="none" stroke="var(--soft)" strokeWidth="2" />}
                {Array.from({ length: r.places }, (_, i) => (
                  <path key={i} d={r.weights ? `M${i * 22 + 11} 4v8M${i * 22 + 17} 12h-12v14h12` : `M${i * 22 + 11} 2v13M${i * 22 + 6} 15h10v13h-10z`} fill="none" stroke={i < r.hanging ? "var(--ink)" : "var(--line)"} strokeWidth="2" />
                ))}
              </svg>
              <span className="soft">
                {r.hanging} of {r.places} places taken
              </span>
              <span className={css.rackState}>
                {r.due > 0 ? `${r.due} ${WORDS[r.state]}` : WORDS[r.state]}
                {r.next_due && <span className="soft">{` · ${r.state === "late" ? "due since" : "due"} ${atMinute(r.next_due)}`}</span>}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </div>
  );
}
