import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";

import type { Schemas } from "../../api/client";
import { declarationsOptions, rigsOptions, scatterOptions } from "../../api/queries/rigs";
import { Drawing } from "../../figures/drawings/Drawing";
import { shownUnit } from "../../ui/units";
import { ago, count, figure, onDay } from "../../ui/format";
import { LinkButton } from "../../ui/LinkButton";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { displayExample } from "./channels";
import { bends } from "./MethodPage";
import css from "./rigs.module.css";

/** What measures, whether it may be trusted today, and how each method is done. */
export function RigsPage() {
  const rigs = useQuery(rigsOptions());
  const declared = useQuery(declarationsOptions());
  const scatter = useQuery(scatterOptions());
  if (rigs.isError || declared.isError) return <ErrorNote error={rigs.error ?? declared.error} again={() => void rigs.refetch()} />;
  if (!rigs.data || !declared.data) return <Waiting what="Reading the rigs …" />;
  return (
    <div className="page">
      <div className={css.head}>
        <h1>Rigs &amp; methods</h1>
        <LinkButton to="/rigs/new">Add a rig</LinkButton>
      </div>
      {!rigs.data.items.length && <p className="soft">No rig is named yet. Results belong to the rig they were measured on, so the bench asks for one first.</p>}
      <ul className={css.rigs} aria-label="Rigs">
        {rigs.data.items.map((r) => (
          <li key={r.id}>
            <Link to="/rigs/$rigId" params={{ rigId: r.rig_id }} className={css.rig}>
              <span>
                <strong>{r.name}</strong> <span className="soft figure">{r.code}</span>
                <span className="soft" style={{ display: "block" }}>
                  {r.methods.map((m) => labelOf(declared.data, m)).join(", ")}
                  {r.places > 1 && ` · ${String(r.places)} places`}
                </span>
              </span>
              <span className={css.displays}>
                {r.channels.map((c) => (
                  <span key={c.name} title={c.name}>
                    <span className={css.lcd}>{sample(c)}</span> {c.unit} <span className="soft">{c.name}</span>
                  </span>
                ))}
              </span>
              <Trust rig={r} />
            </Link>
          </li>
        ))}
      </ul>
      <h2>Methods</h2>
      <p className="soft">
        What is printed for them: <Link to="/rigs/shapes">all shapes, as solids and drawings</Link>, and <Link to="/rigs/parts">parts of your own</Link>. What is missing here you define yourself: <Link to="/rigs/own">a test of your own</Link>
      </p>
      <ul className={css.methods} aria-label="Methods">
        {declared.data.methods.filter((m) => m.own === null || m.own.offered).map((m) => (
          <li key={m.name}>
            <Link to="/methods/$method" params={{ method: m.name }} className={css.method}>
              {m.shapes[0] && <Drawing shape={m.shapes[0]} orientation={m.orientations[0] ?? "flat"} place={null} arrows={false} supported={bends(m)} className={css.small} />}
              <strong>
                {m.label}
                {m.own && <span className="soft"> · your own, version {m.own.number}</span>}
              </strong>
              <span className="soft">{m.measures}</span>
              <span className="soft">{scatterWords(scatter.data?.items ?? [], m)}</span>
            </Link>
          </li>
        ))}
      </ul>
    </div>
  );
}

export const labelOf = (declared: Schemas["Declarations"], method: string): string => declared.methods.find((m) => m.name === method)?.label ?? method;

/** What the display looks like: digits by its step, without the point where it shows none. */
export function sample(c: Schemas["ChannelView"]): string {
  return displayExample(c.decimals, c.step).shown;
}

function scatterWords(items: readonly Schemas["ScatterView"][], m: Schemas["MethodView"]): string {
  const own = items.find((s) => s.method === m.name && s.quantity === m.main);
  if (!own) return "not measured here yet";
  const of = `here (${count(own.specimens, "specimen")})`;
  if (own.cv === 0) return `all of ${count(own.specimens, "specimen")} alike here`;
  const shown = shownUnit(own.unit);
  return own.cv !== null ? `scatters by ${(100 * own.cv).toFixed(1)} % of its mean ${of}` : `scatters by ${figure((own.sd ?? 0) * shown.factor)} ${shown.unit} ${of}`;
}

export function Trust({ rig }: { rig: Schemas["RigView"] }) {
  if (!rig.calibrated_at) return <span className="soft">never calibrated: taken as shown</span>;
  const overdue = rig.due_at !== null && Date.parse(rig.due_at) < Date.now();
  return (
    <span style={overdue ? { color: "var(--caution)", fontWeight: 650 } : undefined}>
      {overdue ? "calibration is due" : `calibrated ${ago(rig.calibrated_at)}`}
      {rig.due_at && <span className="soft">{` · ${overdue ? "since" : "again"} ${onDay(rig.due_at)}`}</span>}
    </span>
  );
}
