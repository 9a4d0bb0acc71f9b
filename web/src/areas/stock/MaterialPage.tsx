import { Button, Modal, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { dossierOptions, refreshStock } from "../../api/queries";
import { ClaimBeside } from "../../figures/ClaimBeside";
import { HeatWindow } from "../../figures/HeatWindow";
import { atMinute, figure, interval, onDay, plain, shownUnit } from "../../ui/format";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { LinkButton } from "../../ui/LinkButton";
import { composition, Swatch } from "../../ui/Swatch";
import { MaterialForm } from "./MaterialForm";
import css from "./parts.module.css";
import { IntakeMark, moistureDoubt, shareLeft, SpoolGlyph } from "./SpoolGlyph";

type Dossier = Schemas["DossierOut"];

/** One material as a dossier: what its maker says, what was measured beside it, its spools and prices. */
export function MaterialPage() {
  const { materialId } = useParams({ from: "/stock/materials/$materialId" });
  const dossier = useQuery(dossierOptions(materialId));
  const [editing, setEditing] = useState(false);
  if (dossier.isPending) return <Waiting what="Fetching the dossier …" />;
  if (dossier.isError) return <ErrorNote error={dossier.error} again={() => void dossier.refetch()} />;
  const d = dossier.data;
  const m = d.material;
  return (
    <div className="page">
      <div className={css.titled}>
        <Swatch hex={m.hex} mark={m.mark} filled={m.filler !== null} size={58} />
        <div>
          <Link to="/stock" className={css.back}>
            Stock
          </Link>
          <h1>
            {m.maker} {m.product}, {m.colour}
          </h1>
          <div className="soft">
            {composition(m)} · {m.diameter} mm{m.obtained && ` · ${m.obtained}`} · here since {onDay(m.created_at)}
          </div>
        </div>
        <div className={css.tools}>
          <LinkButton to="/stock/intake" search={{ material: m.id }}>
            Take in a spool
          </LinkButton>
          <LinkButton to="/stock/new" search={{ like: m.id }} variant="default">
            Another colour
          </LinkButton>
          <Button variant="default" onClick={() => setEditing(true)}>
            Edit
          </Button>
        </div>
      </div>
      {d.contradictions.length > 0 && (
        <div className={css.doubts} role="note">
          {d.contradictions.map((c) => (
            <div key={c.text}>
              <strong>The maker contradicts itself</strong> on the {c.about}: “{c.first}” against “{c.second}”.
            </div>
          ))}
        </div>
      )}
      <div className={css.columns}>
        <div className={css.stack}>
          <MakerSays d={d} />
          <Claims d={d} />
        </div>
        <div className={css.stack}>
          <Measured d={d} />
          <Spools d={d} />
          <Price d={d} />
          {d.line.length > 1 && <ProductLine d={d} />}
          <History d={d} />
        </div>
      </div>
      <Modal opened={editing} onClose={() => setEditing(false)} title={`${m.maker} ${m.product}, ${m.colour}`} size="xl">
        <MaterialForm dossier={d} onDone={() => setEditing(false)} />
      </Modal>
    </div>
  );
}

function MakerSays({ d }: { d: Dossier }) {
  const w = d.window;
  const said = (value: boolean | null) => (value === null ? "not said" : value ? "needed" : "not needed");
  return (
    <section className={css.panel} aria-label="What the maker asks for">
      <h2>
        What the maker asks for {w.source && <span className={`soft ${css.small}`}>({w.source})</span>}
      </h2>
      <HeatWindow window={w} accent={d.material.hex} />
      <dl className={css.facts} style={{ gridTemplateColumns: "auto 1fr auto 1fr" }}>
        <dt>print speed</dt>
        <dd className="figure">{w.speed_low !== null || w.speed_high !== null ? `${w.speed_low ?? ""}–${w.speed_high ?? ""} mm/s` : "not said"}</dd>
        <dt>hardened nozzle</dt>
        <dd>{said(w.hardened)}</dd>
        <dt>volumetric flow</dt>
        <dd className="figure">{w.flow_max !== null ? `≤ ${w.flow_max} mm³/s` : "not said"}</dd>
        <dt>enclosure</dt>
        <dd>{said(w.enclosure)}</dd>
        <dt>least nozzle</dt>
        <dd className="figure">{w.nozzle_min !== null ? `${w.nozzle_min} mm` : "not said"}</dd>
        <dt>plate</dt>
        <dd>{w.plate || "not said"}</dd>
        <dt>drying</dt>
        <dd className="figure">{w.dry_temperature !== null ? `${w.dry_temperature} °C, ${w.dry_time ?? "?"} h` : "not asked for"}</dd>
        <dt>adhesive</dt>
        <dd>{w.adhesive || "not said"}</dd>
      </dl>
    </section>
  );
}

function Claims({ d }: { d: Dossier }) {
  const queries = useQueryClient();
  const [text, setText] = useState("");
  const [source, setSource] = useState("");
  const [gone, setGone] = useState<{ id: string; text: string } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const act = async (what: () => Promise<unknown>) => {
    try {
      await what();
      setProblem(null);
      refreshStock(queries);
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const add = () =>
    act(async () => {
      unwrap(await client.POST("/api/materials/{material_id}/claims", { params: { path: { material_id: d.material.id } }, body: { id: newId(), text, source, method: "" } }));
      setText("");
    });
  const retract = (id: string, back: boolean) => act(async () => unwrap(await client.PUT("/api/claims/{claim_id}/retraction", { params: { path: { claim_id: id }, query: { back } } })));
  return (
    <section className={css.panel} aria-label="What the maker claims">
      <h2>What the maker claims</h2>
      <ul className={css.lines}>
        {d.claims.map((c) => (
          <li key={c.id}>
            <div style={{ display: "flex", gap: 10 }}>
              <span style={{ flex: 1 }}>“{c.text}”</span>
              <button
                type="button"
                className={css.undo}
                aria-label={`Take out: ${c.text}`}
                onClick={() => {
                  void retract(c.id, false);
                  setGone({ id: c.id, text: c.text });
                }}
              >
                take out
              </button>
            </div>
            <div className={`soft ${css.small}`}>
              {[c.label || "not tied to a quantity", c.method, c.source, c.colour !== d.material.colour ? `said of ${c.colour}` : ""].filter(Boolean).join(" · ")}
            </div>
            {c.value !== null && c.beside.map((b) => <Beside key={b.test_id + b.rig_version_id} claim={c} measured={b} value={c.value ?? 0} />)}
          </li>
        ))}
        {!d.claims.length && <li className="soft">No statement kept. Paste what stands on the box: “tensile strength 52 MPa, ISO 527”, “no warping”.</li>}
      </ul>
      {gone && (
        <p className={css.small}>
          Taken out: “{gone.text}”.{" "}
          <button
            type="button"
            className={css.undo}
            onClick={() => {
              void retract(gone.id, true);
              setGone(null);
            }}
          >
            Undo
          </button>
        </p>
      )}
      <form
        className={css.entry}
        onSubmit={(e) => {
          e.preventDefault();
          void add();
        }}
      >
        <TextInput aria-label="A claim as the maker words it" placeholder="a claim, as the maker words it" value={text} onChange={(e) => setText(e.currentTarget.value)} maxLength={400} style={{ flex: 2 }} error={problem} />
        <TextInput aria-label="Where it stands" placeholder="where it stands" value={source} onChange={(e) => setSource(e.currentTarget.value)} maxLength={200} style={{ flex: 1 }} />
        <Button type="submit" variant="default" disabled={!text.trim()}>
          Add
        </Button>
      </form>
    </section>
  );
}

function Beside({ claim, measured: b, value }: { claim: Schemas["ClaimView"]; measured: Schemas["MeasuredOut"]; value: number }) {
  const { unit, factor } = shownUnit(b.unit);
  return (
    <div style={{ display: "flex", gap: 14, alignItems: "center" }}>
      <ClaimBeside claimed={value} relation={claim.relation} mean={b.mean} ci={b.ci95} values={b.values} unit={unit} factor={factor} />
      <div className={css.small}>
        <span style={{ color: "var(--accent)" }}>
          claimed <span className="figure">{plain(value * factor)}</span> {unit}
        </span>
        <br />
        measured{" "}
        <Link to="/studies/$studyId/findings" params={{ studyId: b.study_id }} search={{ test: b.test_id, quantity: b.quantity }}>
          <span className="figure">{figure(b.mean * factor, b.ci95 ? [(b.ci95[0] ?? 0) * factor, (b.ci95[1] ?? 0) * factor] : null)}</span> {unit}
        </Link>
        , n {b.n}
        {claim.method && <span className="soft"> · own bars, not {claim.method}</span>}
      </div>
    </div>
  );
}

function Measured({ d }: { d: Dossier }) {
  const queries = useQueryClient();
  const [gone, setGone] = useState<string | null>(null);
  const takeOut = async (id: string, back: boolean) => {
    unwrap(await client.PUT("/api/reported/{result_id}/retraction", { params: { path: { result_id: id }, query: { back } } }));
    setGone(back ? null : id);
    refreshStock(queries);
  };
  const main = d.measured.filter((g) => g.main || g.quantity === "apparent_modulus");
  const studies = new Set(main.map((g) => g.study_id)).size;
  return (
    <section className={css.panel} aria-label="What was measured">
      <h2>
        What was measured here {studies === 1 && <span className={`soft ${css.small}`}>in “{main[0]?.study}”</span>}
      </h2>
      {main.length ? (
        <table className="plain">
          <thead>
            <tr>
              <th>Quantity</th>
              <th className="num">mean</th>
              <th className="num">95 % interval</th>
              <th className="num">n</th>
            </tr>
          </thead>
          <tbody>
            {main.map((g) => {
              const { unit, factor } = shownUnit(g.unit);
              const ci = g.ci95 ? ([(g.ci95[0] ?? 0) * factor, (g.ci95[1] ?? 0) * factor] as [number, number]) : null;
              return (
                <tr key={g.test_id + g.quantity + g.rig_version_id}>
                  <td>
                    <Link to="/studies/$studyId/findings" params={{ studyId: g.study_id }} search={{ test: g.test_id, quantity: g.quantity }}>
                      {g.label}
                    </Link>{" "}
                    <span className={`soft ${css.small}`}>
                      {g.test}
                      {studies > 1 && ` · ${g.study}`}
                    </span>
                  </td>
                  <td className="num">
                    {figure(g.mean * factor, ci)} {unit}
                  </td>
                  <td className="num">{ci ? interval(ci) : "–"}</td>
                  <td className="num">{g.n}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      ) : (
        <p className="soft">Nothing yet: put it into a study.</p>
      )}
      {gone && (
        <p className={css.small}>
          A reported figure was taken out.{" "}
          <button type="button" className={css.undo} onClick={() => void takeOut(gone, true)}>
            Undo
          </button>
        </p>
      )}
      {d.reported.length > 0 && (
        <>
          <h2 style={{ marginTop: "0.9rem" }}>
            Reported <span className={`soft ${css.small}`}>by others or in the past; never averaged with the above</span>
          </h2>
          <table className="plain">
            <tbody>
              {d.reported.map((r) => (
                <tr key={r.id}>
                  <td>
                    □ {r.quantity} <span className={`soft ${css.small}`}>{[r.method, r.source, r.reported_on].filter(Boolean).join(" · ")}</span>
                  </td>
                  <td className="num">
                    {plain(r.value)} {r.unit}
                    {r.sd !== null && ` ± ${r.sd}`}
                  </td>
                  <td className="num">{r.n !== null ? `n ${r.n}` : "n ?"}</td>
                  <td style={{ textAlign: "right" }}>
                    <button type="button" className={css.undo} aria-label={`Take out: ${r.quantity} ${r.value} ${r.unit}`} onClick={() => void takeOut(r.id, false)}>
                      take out
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </section>
  );
}

function Spools({ d }: { d: Dossier }) {
  return (
    <section className={css.panel} aria-label="Spools">
      <h2>Spools</h2>
      <ul className={css.lines}>
        {d.spools.map((s) => (
          <li key={s.id} style={{ display: "flex", gap: 10, alignItems: "center", opacity: s.gone_at ? 0.6 : 1 }}>
            <SpoolGlyph hex={d.material.hex} share={s.gone_at ? 0 : shareLeft(s)} size={34} />
            <Link to="/stock/spools/$spoolId" params={{ spoolId: s.id }} className="figure">
              {s.code}
            </Link>
            <span>
              <IntakeMark verdict={s.verdict} /> <span className={`soft ${css.small}`}>lot {s.lot || "–"}</span>
            </span>
            <span className={css.small} style={{ flex: 1, color: moistureDoubt(s) ? "var(--caution)" : "var(--soft)" }}>
              {s.gone_at ? (s.gone_why ?? "gone") : s.moisture.words}
            </span>
            <span className="figure">{s.left === null ? "?" : s.left.toFixed(0)} g</span>
          </li>
        ))}
        {!d.spools.length && <li className="soft">No spool of it yet.</li>}
      </ul>
      {d.moisture_lost.length > 0 && (
        <p className={`soft ${css.small}`} style={{ margin: "0.4rem 0 0" }}>
          Drying took out:{" "}
          {d.moisture_lost.map((l) => `${(100 * l.lost).toFixed(2)} % of ${l.code} (${l.hours.toFixed(0)} h at ${l.temperature} °C, ${onDay(l.at)})`).join("; ")}
        </p>
      )}
    </section>
  );
}

function Price({ d }: { d: Dossier }) {
  const m = d.material;
  const money = (v: number | null, digits: number) => (v === null ? "–" : `${v.toFixed(digits)} ${m.currency}`);
  return (
    <section className={css.panel} aria-label="Price">
      <h2>Price</h2>
      <dl className={css.facts} style={{ gridTemplateColumns: "auto 1fr auto 1fr" }}>
        <dt>a spool</dt>
        <dd className="figure">
          {money(m.price, 2)} {m.net_mass !== null && `for ${m.net_mass} g`}
        </dd>
        <dt>per kg</dt>
        <dd className="figure">{money(m.per_kg, 2)}</dd>
        <dt>density</dt>
        <dd className="figure">{m.density === null ? "not said" : `${m.density} g/cm³`}</dd>
        <dt>per cm³</dt>
        <dd className="figure">{money(m.per_cm3, 4)}</dd>
        {d.length !== null && (
          <>
            <dt>strand</dt>
            <dd className="figure">{d.length.toFixed(0)} m a spool</dd>
          </>
        )}
      </dl>
      {d.shapes.length > 0 && (
        <details style={{ marginTop: 8 }}>
          <summary>
            Per specimen, printed solid: <span className="figure">{money(m.per_specimen, 2)}</span> a short pull bar
          </summary>
          <table className="plain">
            <tbody>
              {d.shapes.map((s) => (
                <tr key={s.name}>
                  <td>{s.label}</td>
                  <td className="num">{s.mass.toFixed(1)} g</td>
                  <td className="num">{money(s.price, 2)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      )}
    </section>
  );
}

function ProductLine({ d }: { d: Dossier }) {
  return (
    <section className={css.panel} aria-label="Product line">
      <h2>
        {d.material.maker} {d.material.product} in other colours <span className={`soft ${css.small}`}>kept apart, never averaged</span>
      </h2>
      <ul className={css.lines}>
        {d.line
          .filter((m) => m.id !== d.material.id)
          .map((m) => (
            <li key={m.id} style={{ display: "flex", gap: 10, alignItems: "center" }}>
              <Swatch hex={m.hex} mark={m.mark} filled={m.filler !== null} size={28} />
              <Link to="/stock/materials/$materialId" params={{ materialId: m.id }}>
                {m.colour}
              </Link>
              <span className={`soft ${css.small}`}>{m.differs.length ? `differs: ${m.differs.join(", ")}` : "registered alike"}</span>
              <span className={`soft ${css.small}`} style={{ marginLeft: "auto" }}>
                {Object.values(m.measured).reduce((a, b) => a + b, 0)} specimens tested
              </span>
            </li>
          ))}
      </ul>
      {d.line_spread.map((l) => (
        <p key={l.study + l.test} className={css.small} style={{ margin: "0.4rem 0 0" }}>
          {l.label}, {l.test} in “{l.study}”: {l.means.map((x) => `${x.colour} ${plain(x.mean)} ${l.unit} (n ${x.n})`).join(", ")}; highest to lowest {l.ratio.toFixed(2)} : 1
        </p>
      ))}
    </section>
  );
}

function History({ d }: { d: Dossier }) {
  return (
    <details className={css.panel}>
      <summary>History of this page</summary>
      <ul className={css.lines}>
        {d.history.map((c, i) => (
          <li key={i} className={css.small}>
            <span className="soft">
              {atMinute(c.at)}, {c.who}:
            </span>{" "}
            {c.entity} {c.action}
            {c.before && c.after && (
              <span className="soft">
                {" "}
                {Object.keys(c.after)
                  .filter((k) => c.before?.[k] !== c.after?.[k])
                  .map((k) => `${k.replaceAll("_", " ")} ${shown(c.before?.[k])} → ${shown(c.after?.[k])}`)
                  .join(", ")}
              </span>
            )}
          </li>
        ))}
      </ul>
      {d.material.note && <p className={css.small}>Note: {d.material.note}</p>}
    </details>
  );
}

function shown(value: unknown): string {
  if (value === null || value === undefined || value === "") return "–";
  return typeof value === "string" ? value : JSON.stringify(value);
}
