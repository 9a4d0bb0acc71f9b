import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { refreshStock } from "../../api/queries/stock";
import { boundSign, figure, interval, plain } from "../../ui/format";
import { Wide } from "../../ui/Wide";
import css from "./parts.module.css";
import { shownUnit } from "../../ui/units";

type Dossier = Schemas["Dossier"];

/** What this lab measured, by study and test, and what others report: beside one another, never put together. */
export function Measured({ d }: { d: Dossier }) {
  const main = d.history.filter((g) => g.main || g.quantity === "apparent_modulus");
  const studies = new Set(main.map((g) => g.study_id)).size;
  return (
    <section className={css.panel} aria-label="What was measured">
      <h2>
        What was measured here {studies === 1 && <span className={`soft ${css.small}`}>in “{main[0]?.study}”</span>}
      </h2>
      {main.length ? (
        <Wide label="Measured groups">
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
              {main.map((g) => (
                <MeasuredRow key={g.test_id + g.quantity + g.arm_id + g.rig_version_id + g.end} g={g} named={studies > 1} />
              ))}
            </tbody>
          </table>
        </Wide>
      ) : (
        <p className="soft">Nothing yet: put it into a study.</p>
      )}
      <Reported d={d} />
    </section>
  );
}

function MeasuredRow({ g, named }: { g: Dossier["history"][number]; named: boolean }) {
  const { unit, at, ends } = shownUnit(g.unit);
  const ci = g.ci95 ? ends(g.ci95) : null;
  return (
    <tr>
      <td>
        <Link to="/studies/$studyId/findings" params={{ studyId: g.study_id }} search={{ test: g.test_id, quantity: g.quantity }}>
          {g.label}
        </Link>{" "}
        <span className={`soft ${css.small}`}>
          {[`${g.test}, ${g.orientation}`, g.treatment, g.settings, g.rig, g.end].filter(Boolean).join(" · ")}
          {named && ` · ${g.study}`}
        </span>
      </td>
      <td className="num">
        {boundSign(g)}
        {figure(at(g.mean), ci)} {unit}
      </td>
      <td className="num">{ci ? interval(ci) : "–"}</td>
      <td className="num">{g.n}</td>
    </tr>
  );
}

/** Figures of others; one that is taken out can be put back. */
function Reported({ d }: { d: Dossier }) {
  const queries = useQueryClient();
  const [gone, setGone] = useState<string | null>(null);
  const takeOut = async (id: string, back: boolean) => {
    unwrap(await client.PUT("/api/reported/{result_id}/retraction", { params: { path: { result_id: id }, query: { back } } }));
    setGone(back ? null : id);
    refreshStock(queries);
  };
  return (
    <>
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
          <Wide label="Reported results">
            <table className="plain">
              <tbody>
                {d.reported.map((r) => (
                  <tr key={r.id}>
                    <td>
                      □ {r.quantity} <span className={`soft ${css.small}`}>{[r.method, r.source, r.reported_on].filter(Boolean).join(" · ")}</span>
                    </td>
                    <td className="num">
                      {plain(r.value)} {r.unit}
                      {r.sd !== null && `, sd ${r.sd}`}
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
          </Wide>
        </>
      )}
    </>
  );
}
