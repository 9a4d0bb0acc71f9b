import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useSearch } from "@tanstack/react-router";
import { useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import type { Went } from "../../api/outbox";
import { dryingsOptions } from "../../api/queries/sessions";
import { placesOptions, refreshStock } from "../../api/queries/stock";
import { atMinute, onDay, setting } from "../../ui/format";
import { Empty, ErrorNote, KeptHere, Waiting } from "../../ui/Notes";
import { Swatch } from "../../ui/Swatch";
import { CorrectMass } from "./CorrectMass";
import css from "./drying.module.css";
import { Dryer } from "./Dryer";
import { IntakeMark } from "../stock/SpoolMarks";
import { SpoolActions } from "../stock/SpoolActions";

type Drying = Schemas["DryingView"];
type Place = Schemas["PlaceView"];

/** Dryers and shelves with the spools in them: pick spools, then dry them or put them somewhere. */
export function DryingPage() {
  const { spool } = useSearch({ from: "/stock/drying" });
  const dryings = useQuery(dryingsOptions());
  const places = useQuery(placesOptions());
  const [picked, setPicked] = useState<string[]>(spool ? [spool] : []);
  const [went, setWent] = useState<Went>("sent");
  if (dryings.isPending || places.isPending) return <Waiting what="Looking at dryers and shelves …" />;
  if (dryings.isError) return <ErrorNote error={dryings.error} again={() => void dryings.refetch()} />;
  if (places.isError) return <ErrorNote error={places.error} again={() => void places.refetch()} />;
  const running = dryings.data.items.filter((d) => d.ended_at === null);
  const ended = dryings.data.items.filter((d) => d.ended_at !== null);
  const shelves = places.data.items.filter((p) => p.storage !== "dryer");
  const chosen = shelves.flatMap((p) => p.spools).filter((s) => picked.includes(s.id));
  if (!places.data.items.length) return <Empty title="No spool at hand">Take one in first: <Link to="/stock/intake">the intake sheet</Link> asks where it goes.</Empty>;
  return (
    <div className="page">
      <div style={{ display: "flex", alignItems: "baseline", gap: 14, marginBottom: 10 }}>
        <Link to="/stock" className="soft">
          Stock
        </Link>
        <h1>Drying &amp; storage</h1>
      </div>
      <div className={css.columns}>
        <div className={css.lanes}>
          {running.map((d) => (
            <Dryer key={d.id} d={d} />
          ))}
          {shelves.map((p) => (
            <Shelf key={p.storage + p.place} place={p} picked={picked} onPick={(id) => setPicked(picked.includes(id) ? picked.filter((x) => x !== id) : [...picked, id])} />
          ))}
        </div>
        <aside className={css.side}>
          <SpoolActions spools={chosen} places={shelves} devices={[...new Set(dryings.data.items.map((d) => d.device))]} onDone={(how) => {
              setPicked([]);
              setWent(how);
            }}
          />
          <KeptHere went={went} />
          {ended.length > 0 && <Ended items={ended} />}
        </aside>
      </div>
    </div>
  );
}

function Shelf({ place: p, picked, onPick }: { place: Place; picked: readonly string[]; onPick: (id: string) => void }) {
  return (
    <section className={css.lane} data-storage={p.storage} aria-label={p.place || p.storage}>
      <div className={css.laneHead}>
        <h2>{p.place || p.storage}</h2>
        <span className="soft">{p.place ? p.storage : "no place named"}</span>
        {p.humidity !== null && (
          <span style={p.humidity > 20 ? { color: "var(--caution)" } : undefined}>
            <span className="figure">{p.humidity}</span> % RH <span className="soft">{p.read_at && onDay(p.read_at)}</span>
          </span>
        )}
      </div>
      <div className={css.spools}>
        {p.spools.map((s) => (
          <button key={s.id} type="button" className={css.spool} aria-pressed={picked.includes(s.id)} onClick={() => onPick(s.id)}>
            <Swatch hex={s.material.hex} mark={s.material.mark} filled={s.material.filler !== null} size={30} />
            <span>
              <span>
                <span className="figure">{s.code}</span> <IntakeMark decision={s.decision} dried={s.dried} short /> {s.material.maker} {s.material.product}, {s.material.colour}
              </span>
              <span className={css.words}>{s.words}</span>
            </span>
          </button>
        ))}
      </div>
    </section>
  );
}

function Ended({ items }: { items: Drying[] }) {
  const queries = useQueryClient();
  const undo = async (id: string) => {
    unwrap<Drying>(await client.PUT("/api/dryings/{drying_id}/undone", { params: { path: { drying_id: id }, query: { what: "end" } } }));
    refreshStock(queries);
  };
  return (
    <section className={css.act}>
      <h2>What drying took out</h2>
      <ul className={css.ended}>
        {items.map((d) => (
          <li key={d.id}>
            <div>
              <strong>{d.device}</strong> <span className="figure">{setting(d.temperature, "°C")}</span>{" "}
              <span className="soft">
                {((new Date(d.ended_at ?? "").getTime() - new Date(d.started_at).getTime()) / 3_600_000).toFixed(0)} h, ended {atMinute(d.ended_at ?? "")}
              </span>{" "}
              <button type="button" className={css.undo} onClick={() => void undo(d.id)}>
                undo: still runs
              </button>
            </div>
            {d.members.map((m) => (
              <div key={m.spool_id} className={css.lost}>
                <Swatch hex={m.material.hex} mark={m.material.mark} filled={m.material.filler !== null} size={22} />
                <Link to="/stock/spools/$spoolId" params={{ spoolId: m.spool_id }} className="figure">
                  {m.code}
                </Link>
                <svg width="120" height="10" aria-hidden="true">
                  <rect width={Math.min(120, (m.lost ?? 0) * 100 * 60)} height="10" rx="2" fill="var(--accent)" />
                </svg>
                <span className="figure">{m.lost === null ? "not known" : `${(100 * m.lost).toFixed(2)} %`}</span>
                <CorrectMass drying={d} member={m} moment="before" />
                <CorrectMass drying={d} member={m} moment="after" />
              </div>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}
