import { Button, Modal } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { dossierOptions } from "../../api/queries/stock";
import { FigureFrame } from "../../figures/FigureFrame";
import { HeatWindow } from "../../figures/HeatWindow";
import { boundSign, amount, onDay, plain, setting, spanWords } from "../../ui/format";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { Record } from "../../ui/Record";
import { LinkButton } from "../../ui/LinkButton";
import { composition, Swatch } from "../../ui/Swatch";
import { LookAgain } from "../day/LookAgain";
import { Claims } from "./Claims";
import { Measured } from "./MaterialEvidence";
import { MaterialForm } from "./MaterialForm";
import css from "./parts.module.css";
import { Wide } from "../../ui/Wide";
import { IntakeMark, isDried, moistureDoubt, shareLeft, TurnsLeft } from "./SpoolMarks";
import { windowRows } from "./window";
import { ProductPanel } from "./ProductPanel";

type Dossier = Schemas["Dossier"];

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
            {m.withdrawn_on && ` · withdrawn since ${onDay(m.withdrawn_on)}`}
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
          <Price d={d} />
        </div>
        <div className={css.stack}>
          <Measured d={d} />
          <PrintedWith d={d} />
          <Spools d={d} />
          <ProductPanel d={d} />
          <LookAgain kind="material" id={m.id} className={css.panel ?? ""} />
          {d.line.length > 1 && <ProductLine d={d} />}
          <PageRecord d={d} />
        </div>
      </div>
      <Modal opened={editing} onClose={() => setEditing(false)} title={`${m.maker} ${m.product}, ${m.colour}`} size="xl">
        <MaterialForm dossier={d} onDone={() => setEditing(false)} />
      </Modal>
    </div>
  );
}

/** The sheets that it is printed with, each with the trail that is its evidence. */
function PrintedWith({ d }: { d: Dossier }) {
  if (!d.current.length) return null;
  return (
    <section className={css.panel} aria-label="Printed with">
      <h2>Printed with</h2>
      {d.current.map((c) => (
        <p key={c.id} style={{ margin: "0.3rem 0" }}>
          <Link to="/dial-in/sheets/$sheetId" params={{ sheetId: c.sheet_id }}>
            {c.purpose}
          </Link>{" "}
          on {c.printer_name}
          {c.trail_id && (
            <>
              {", from "}
              <Link to="/dial-in/$trailId" params={{ trailId: c.trail_id }} search={{ trial: c.trial_number ?? undefined }}>
                trial {c.trial_number}
              </Link>
            </>
          )}{" "}
          <span className="soft">
            accepted {onDay(c.accepted_at)} by {c.who}
          </span>
        </p>
      ))}
    </section>
  );
}

function MakerSays({ d }: { d: Dossier }) {
  const w = d.window;
  const noted = [w.fumes && "fumes", w.dust && "dust"].filter(Boolean).join(" and ");
  const said = (value: boolean | null) => (value === null ? "not said" : value ? "needed" : "not needed");
  return (
    <section className={css.panel} aria-label="What the maker asks for">
      <FigureFrame
        title={
          <>
            What the maker asks for {w.source && <span className={`soft ${css.small}`}>({w.source})</span>}
          </>
        }
        name="window"
        about={{ kind: "material", name: `${d.material.maker} ${d.material.product}, ${d.material.colour}` }}
        rows={() => windowRows(w)}
      >
        <HeatWindow window={w} accent={d.material.hex} />
      </FigureFrame>
      <dl className={css.facts} style={{ gridTemplateColumns: "auto 1fr auto 1fr" }}>
        <dt>print speed</dt>
        <dd className="figure">{w.speed_low !== null || w.speed_high !== null ? spanWords(w.speed_low, w.speed_high, "mm/s") : "not said"}</dd>
        <dt>hardened nozzle</dt>
        <dd>{said(w.hardened)}</dd>
        <dt>volumetric flow</dt>
        <dd className="figure">{w.flow_max !== null ? `≤ ${setting(w.flow_max, "mm³/s")}` : "not said"}</dd>
        <dt>enclosure</dt>
        <dd>{said(w.enclosure)}</dd>
        <dt>least nozzle</dt>
        <dd className="figure">{w.nozzle_min !== null ? setting(w.nozzle_min, "mm") : "not said"}</dd>
        <dt>bed surface</dt>
        <dd>{w.bed_surface || "not said"}</dd>
        <dt>drying</dt>
        <dd className="figure">{w.dry_temperature !== null ? `${setting(w.dry_temperature, "°C")}, ${w.dry_time ?? "?"} h` : "not asked for"}</dd>
        <dt>adhesive</dt>
        <dd>{w.adhesive || "not said"}</dd>
        {noted && (
          <>
            <dt>gives off</dt>
            <dd>{noted}: draw it off</dd>
          </>
        )}
      </dl>
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
            <TurnsLeft hex={d.material.hex} share={s.gone_at ? 0 : shareLeft(s)} height={22} />
            <Link to="/stock/spools/$spoolId" params={{ spoolId: s.id }} className="figure">
              {s.code}
            </Link>
            <span>
              <IntakeMark decision={s.decision} dried={isDried(s)} /> <span className={`soft ${css.small}`}>lot {s.lot || "–"}</span>
            </span>
            <span className={css.small} style={{ flex: 1, color: moistureDoubt(s) ? "var(--caution)" : "var(--soft)" }}>
              {s.gone_at ? (s.gone_why ?? "gone") : s.moisture.words}
            </span>
            <span className="figure">{s.left === null ? "?" : amount(s.left, "g", 0)}</span>
          </li>
        ))}
        {!d.spools.length && <li className="soft">No spool of it yet.</li>}
      </ul>
      {d.moisture_lost.length > 0 && (
        <p className={`soft ${css.small}`} style={{ margin: "0.4rem 0 0" }}>
          Drying took out:{" "}
          {d.moisture_lost.map((l) => `${(100 * l.lost).toFixed(2)} % of ${l.code} (${l.hours.toFixed(0)} h at ${setting(l.temperature, "°C")}, ${onDay(l.at)})`).join("; ")}
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
          {money(m.price, 2)} {m.net_mass !== null && `for ${setting(m.net_mass, "g")}`}
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
          <Wide label="Mass and price of a specimen">
            <table className="plain">
              <tbody>
                {d.shapes.map((s) => (
                  <tr key={s.name}>
                    <td>{s.label}</td>
                    <td className="num">{amount(s.mass, "g", 1)}</td>
                    <td className="num">{money(s.price, 2)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </Wide>
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
          {l.label}, {l.test} in “{l.study}”: {l.means.map((x) => `${x.colour} ${boundSign(x)}${plain(x.mean)} ${l.unit} (n ${x.n})`).join(", ")}; highest to lowest {l.ratio.toFixed(2)} : 1
        </p>
      ))}
    </section>
  );
}

function PageRecord({ d }: { d: Dossier }) {
  return (
    <details className={css.panel}>
      <summary>Record of this page</summary>
      <Record entries={d.record} plain={["added"]} className={css.lines} />
      {d.material.note && <p className={css.small}>Note: {d.material.note}</p>}
    </details>
  );
}

