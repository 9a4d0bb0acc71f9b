import { Button, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { refreshStock } from "../../api/queries/stock";
import { ClaimBeside } from "../../figures/ClaimBeside";
import { boundSign, figure, interval, plain } from "../../ui/format";
import { Wide } from "../../ui/Wide";
import css from "./parts.module.css";
import { shownUnit } from "../../ui/units";

type Dossier = Schemas["Dossier"];

/** The maker's statements, each beside what was measured where it can be. */
export function Claims({ d }: { d: Dossier }) {
  const queries = useQueryClient();
  const [id, setId] = useState(() => newId());
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
  const add = (e: React.SyntheticEvent) => {
    e.preventDefault();
    void act(async () => {
      unwrap(await client.POST("/api/materials/{material_id}/claims", { params: { path: { material_id: d.material.id } }, body: { id, text, source, method: "" } }));
      setText("");
      setId(newId());
    });
  };
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
            {c.verdicts.map((v) => <OneVerdict key={v.measured.test_id + v.measured.arm_id + v.measured.rig_version_id + v.measured.end + v.against} claim={c} verdict={v} />)}
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
      <form className={css.entry} onSubmit={add}>
        <TextInput aria-label="A claim as the maker words it" placeholder="a claim, as the maker words it" value={text} onChange={(e) => setText(e.currentTarget.value)} maxLength={400} style={{ flex: 2 }} error={problem} />
        <TextInput aria-label="Where it stands" placeholder="where it stands" value={source} onChange={(e) => setSource(e.currentTarget.value)} maxLength={200} style={{ flex: 1 }} />
        <Button type="submit" variant="default" disabled={!text.trim()}>
          Add
        </Button>
      </form>
    </section>
  );
}

const VERDICTS: Record<string, string> = { "as claimed": "var(--better)", "better than claimed": "var(--better)", contradicted: "var(--worse)", "not as claimed": "var(--worse)" };

interface OneVerdictProps {
  claim: Schemas["DossierClaim"];
  verdict: Schemas["ClaimVerdictView"];
}

/** The verdict on a claim by one group that was measured. */
function OneVerdict({ claim, verdict }: OneVerdictProps) {
  return claim.value === null || verdict.against ? <Against verdict={verdict} /> : <ClaimedValue claim={claim} verdict={verdict} value={claim.value} />;
}

function VerdictWord({ verdict: v }: Pick<OneVerdictProps, "verdict">) {
  return (
    <>
      <strong style={{ color: VERDICTS[v.verdict] ?? "var(--soft)" }}>{v.verdict}</strong>
      {v.reason && <span className="soft"> · {v.reason}</span>}
    </>
  );
}

/** Of a claim about another material: how many times that was measured. */
function Against({ verdict: v }: Pick<OneVerdictProps, "verdict">) {
  const m = v.measured;
  return (
    <div className={css.small}>
      <VerdictWord verdict={v} />: measured{" "}
      <span className="figure">
        × {figure(v.value, v.ci95)} {v.ci95 && `[${interval(v.ci95)}]`}
      </span>{" "}
      {v.against}
      <span className="soft"> · {[m.label, m.orientation, `n ${String(m.n)}`, m.settings].filter(Boolean).join(" · ")}</span>
    </div>
  );
}

/** A claimed value beside the group that was measured, with the verdict. */
function ClaimedValue({ claim, verdict, value }: OneVerdictProps & { value: number }) {
  const b = verdict.measured;
  const shown = shownUnit(b.unit);
  const { unit, at } = shown;
  return (
    <div style={{ display: "flex", gap: 14, alignItems: "center" }}>
      <div style={{ flex: "0 1 280px", minWidth: 180 }}>
        <ClaimBeside claimed={value} relation={claim.relation} mean={b.mean} sign={boundSign(b)} ci={b.ci95} values={b.values} shown={shown} />
      </div>
      <div className={css.small} style={{ flex: "1 1 0" }}>
        <span style={{ color: "var(--accent)" }}>
          claimed <span className="figure">{plain(at(value))}</span> {unit}
        </span>
        : <VerdictWord verdict={verdict} />
        <br />
        measured{" "}
        <Link to="/studies/$studyId/findings" params={{ studyId: b.study_id }} search={{ test: b.test_id, quantity: b.quantity }}>
          <span className="figure">
            {boundSign(b)}
            {figure(at(b.mean), b.ci95 ? shown.ends(b.ci95) : null)}
          </span>{" "}
          {unit}
        </Link>
        , n {b.n}
        {[b.settings, b.rig, b.end, claim.verdicts.length > 1 ? b.study : ""].filter(Boolean).map((words) => (
          <span key={words} className="soft"> · {words}</span>
        ))}
        {claim.method && <span className="soft"> · own bars, not {claim.method}</span>}
      </div>
    </div>
  );
}

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
