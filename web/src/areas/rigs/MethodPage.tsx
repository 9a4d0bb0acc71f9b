import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { declarationsOptions, marginsOptions, rigsOptions, scatterOptions } from "../../api/queries/rigs";
import { Drawing } from "../../figures/drawings/Drawing";
import { size } from "../../figures/drawings/sizes";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import { Formula } from "./Formula";
import { MarginCell } from "./MarginCell";
import { Wide } from "../../ui/Wide";
import css from "./rigs.module.css";
import { shownUnit } from "../../ui/units";
import { short } from "../../ui/format";

/** The card of a method: what is printed, what is measured, what is worked out from it, and how it scatters here. */
export function MethodPage() {
  const { method: name } = useParams({ from: "/methods/$method" });
  const declared = useQuery(declarationsOptions());
  const rigs = useQuery(rigsOptions());
  const scatter = useQuery(scatterOptions());
  const [shapeName, setShapeName] = useState<string | null>(null);
  if (declared.isError) return <ErrorNote error={declared.error} again={() => void declared.refetch()} />;
  if (!declared.data) return <Waiting what="Reading the method …" />;
  const m = declared.data.methods.find((x) => x.name === name);
  if (!m) return <Empty title="There is no such method">The methods stand with the rigs.</Empty>;
  const shape = m.shapes.find((s) => s.name === shapeName) ?? m.shapes[0];
  const serving = (rigs.data?.items ?? []).filter((r) => r.methods.includes(m.name));
  return (
    <div className="page">
      <Link to="/rigs" className="soft">
        Rigs &amp; methods
      </Link>
      <div className={css.head}>
        <h1>{m.label}</h1>
        <span className="soft">
          {m.own ? `your own · version ${String(m.own.number)}${m.own.offered ? "" : ", no longer planned with"}` : `${m.after === "own method" ? "" : "after "}${m.after} · procedure ${m.procedure_version}, reduction ${String(m.reduction_version)}`}
        </span>
        {m.own && (
          <Link to="/rigs/own" search={{ of: m.own.id }}>
            write the next version
          </Link>
        )}
      </div>
      <p style={{ maxWidth: 760, margin: "0.2rem 0 0.6rem" }}>{m.measures}</p>
      <div className={css.card}>
        <section>
          {shape && <Drawing shape={shape} orientation={m.orientations[0] ?? "flat"} place={null} dimensioned arrows={false} supported={bends(m)} className={css.plate} />}
          {shape && <StrainLengths shape={shape} />}
          {m.shapes.length > 1 && (
            <div className={css.shapes} role="group" aria-label="Shape">
              {m.shapes.map((s) => (
                <button key={s.name} type="button" aria-pressed={s.name === shape?.name} onClick={() => setShapeName(s.name)}>
                  {s.label}
                </button>
              ))}
            </div>
          )}
          {m.own_parts && (
            <p className="soft">
              And <Link to="/rigs/parts">parts of your own</Link>.
            </p>
          )}
          <h2>What is measured</h2>
          <ol className={css.steps}>
            {m.steps.map((s) => (
              <li key={s.name}>
                <strong>{s.label}</strong> {s.optional && <span className="soft">if wanted</span>}
                <div className="soft">{stepWords(s, m.protocol)}</div>
              </li>
            ))}
          </ol>
        </section>
        <section>
          <h2>How it is worked out</h2>
          {m.formulas.map((f) => (
            <Formula key={f} text={f} />
          ))}
          <Quantities method={m} scatter={scatter.data?.items ?? []} />
          <h2>Rigs that do it</h2>
          <p>
            {serving.map((r, i) => (
              <span key={r.id}>
                {i > 0 && ", "}
                <Link to="/rigs/$rigId" params={{ rigId: r.rig_id }}>
                  {r.name}
                </Link>
              </span>
            ))}
            {!serving.length && <Link to="/rigs/new" search={{ method: m.name }}>Add the first one</Link>}
          </p>
        </section>
      </div>
    </div>
  );
}

/** What the travel of a crosshead is divided by, for a shape that is pulled. */
function StrainLengths({ shape }: { shape: Schemas["ShapeView"] }) {
  const lengths = Object.entries(shape.strain_lengths).map(([name, mm]) => `${name === "effective length" ? name : `distance ${name}`}, ${size(Math.round(mm * 100) / 100)}`);
  if (!lengths.length) return null;
  return (
    <p className="soft" style={{ margin: "0.3rem 0" }}>
      Travel is divided by the {lengths.join("; for nominal strain by the ")}.
    </p>
  );
}

function Quantities({ method: m, scatter }: { method: Schemas["MethodView"]; scatter: readonly Schemas["ScatterView"][] }) {
  const margins = useQuery(marginsOptions());
  return (
    <Wide label="Quantities">
      <table className="plain">
        <thead>
          <tr>
            <th>quantity</th>
            <th>better</th>
            <th className="num">matters from</th>
            <th className="num">scatter here</th>
          </tr>
        </thead>
        <tbody>
          {m.quantities.map((q) => {
            const { unit, factor } = shownUnit(q.unit);
            const seen = scatter.filter((s) => s.method === m.name && s.quantity === q.name);
            return (
              <tr key={q.name}>
                <td>
                  {q.name === m.main ? <strong>{q.label}</strong> : q.label}
                  {unit && <span className="soft">, {unit}</span>}
                </td>
                <td className="soft">{q.good_side === "none" ? "–" : q.good_side}</td>
                <td className="num">
                  <MarginCell method={m.name} quantity={q} own={margins.data?.items.find((own) => own.method === m.name && own.quantity === q.name)} />
                </td>
                <td className="num soft">
                  {seen.map((s) => (
                    <div key={s.orientation}>
                      {s.cv === 0 ? "all alike," : s.cv !== null ? `${(100 * s.cv).toFixed(1)} %` : `${((s.sd ?? 0) * factor).toPrecision(2)} ${unit}`} {s.orientation}, n {s.specimens}
                      {s.batch_ratio !== null && `; batches ${short(Math.round(10 * s.batch_ratio) / 10)} × that`}
                    </div>
                  ))}
                  {seen.length === 0 && "–"}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Wide>
  );
}

function stepWords(step: Schemas["StepView"], protocol: Schemas["MethodView"]["protocol"]): string {
  if (step.kind === "order") return "by the same traits; that no difference is seen is an answer";
  const fields = step.fields.map((f) => `${f.label}${f.usual > 1 && !f.by_load && !step.due ? ` (${String(f.usual)} readings, ${String(f.needed)} at least)` : ""}${f.from_rig ? " (of the rig)" : ""}`);
  const list = (name: string | null) => (name === null ? [] : [protocol[name]].flat().filter((v) => v !== undefined).map(Number));
  const times = list(step.times ?? step.due);
  return [
    fields.join(", "),
    step.channels.length ? `columns: ${step.channels.join(", ")}` : "",
    step.ladder ? `loads of ${list(step.ladder).map((l) => short(shownUnit("N").at(l))).join(", ")} ${shownUnit("N").unit}` : "",
    times.length ? `read after ${times.map((t) => duration(t)).join(", ")}` : "",
  ]
    .filter(Boolean)
    .join(" · ");
}

/** Whether its specimens lie on two supports under weights. */
export const bends = (m: Schemas["MethodView"]): boolean => m.steps.some((s) => s.kind === "timed loads");

const duration = (s: number): string => (s < 120 ? `${String(s)} s` : s < 7200 ? `${String(Math.round(s / 60))} min` : `${String(Number((s / 3600).toPrecision(3)))} h`);
