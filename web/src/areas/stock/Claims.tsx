import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { refreshStock } from "../../api/queries/stock";
import { ClaimBeside } from "../../figures/ClaimBeside";
import { type ClaimShare, ClaimShares } from "../../figures/ClaimShares";
import { FigureFrame } from "../../figures/FigureFrame";
import { boundSign, figure, interval, plain, spanWords } from "../../ui/format";
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
  const link = (id: string, quantity: string | null) => act(async () => unwrap(await client.PUT("/api/claims/{claim_id}/quantity", { params: { path: { claim_id: id } }, body: { quantity } })));
  const retract = (id: string, back: boolean) => act(async () => unwrap(await client.PUT("/api/claims/{claim_id}/retraction", { params: { path: { claim_id: id }, query: { back } } })));
  return (
    <section className={css.panel} aria-label="What the maker claims">
      <h2>What the maker claims</h2>
      <ul className={css.lines}>
        {d.claims.map((c) => (
          <OneClaim
            key={c.id}
            d={d}
            claim={c}
            onLink={(quantity) => void link(c.id, quantity)}
            onTakeOut={() => {
              void retract(c.id, false);
              setGone({ id: c.id, text: c.text });
            }}
          />
        ))}
        {!d.claims.length && <li className="soft">No statement kept. Paste what stands on the box: “tensile strength 52 MPa, ISO 527”, “no warping”.</li>}
      </ul>
      <ClaimsTaken d={d} />
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

interface OneClaimProps {
  d: Dossier;
  claim: Schemas["DossierClaim"];
  onLink: (quantity: string | null) => void;
  onTakeOut: () => void;
}

function OneClaim({ d, claim: c, onLink, onTakeOut }: OneClaimProps) {
  return (
    <li>
      <div style={{ display: "flex", gap: 10 }}>
        <span style={{ flex: 1 }}>“{c.text}”</span>
        <button
          type="button"
          className={css.undo}
          aria-label={`Take out: ${c.text}`}
          onClick={onTakeOut}
        >
          take out
        </button>
      </div>
      <div className={`soft ${css.small}`}>
        <ClaimLink claim={c} quantities={d.claim_quantities} onLink={onLink} />
        {[c.method, c.source, c.colour !== d.material.colour ? `said of ${c.colour}` : ""].filter(Boolean).map((words) => ` · ${words}`)}
      </div>
      {c.verdicts.map((v) => (
        <div key={v.measured.test_id + v.measured.arm_id + v.measured.rig_version_id + v.measured.end + v.against}>
          <OneVerdict claim={c} verdict={v} />
          <PrintedWith printed={d.printed.find((p) => p.arm_id === v.measured.arm_id)} />
        </div>
      ))}
    </li>
  );
}

interface ClaimLinkProps {
  claim: Schemas["DossierClaim"];
  quantities: readonly Schemas["ClaimQuantityView"][];
  onLink: (quantity: string | null) => void;
}

/** What a claim is about, as its words were read; a person may correct it. */
function ClaimLink({ claim, quantities, onLink }: ClaimLinkProps) {
  const [open, setOpen] = useState(false);
  if (!open)
    return (
      <button type="button" className={css.undo} aria-label={`${claim.label || "not tied to a quantity"}: correct what “${claim.text}” is about`} onClick={() => setOpen(true)}>
        {claim.label || "not tied to a quantity"}
      </button>
    );
  return (
    <NativeSelect
      aria-label={`What “${claim.text}” is about`}
      size="xs"
      display="inline-block"
      autoFocus
      value={claim.quantity ?? ""}
      data={[{ value: "", label: "nothing that is measured" }, ...quantities.map((q) => ({ value: q.name, label: q.label }))]}
      onChange={(e) => {
        onLink(e.currentTarget.value || null);
        setOpen(false);
      }}
      onBlur={() => setOpen(false)}
    />
  );
}

/** How the bars were printed that a claim is held against, and what the maker did not ask for. */
function PrintedWith({ printed }: { printed: Schemas["PrintedAs"] | undefined }) {
  if (!printed) return null;
  const outside = printed.outside.map((o) => {
    const shown = shownUnit(o.unit);
    const end = (value: number | null) => (value === null ? null : Number(shown.at(value).toPrecision(4)));
    return `${o.label} ${plain(shown.at(o.value))} ${shown.unit}, window ${spanWords(end(o.low), end(o.high), shown.unit)}`;
  });
  return (
    <div className={`soft ${css.small}`}>
      printed with {printed.settings || "settings that nobody noted"}
      {outside.length > 0 && <span style={{ color: "var(--caution)" }}> · outside the maker’s window: {outside.join("; ")}</span>}
    </div>
  );
}

/** All claimed values in one figure, to be taken along. */
function ClaimsTaken({ d }: { d: Dossier }) {
  const rows = d.claims.flatMap((c) => c.verdicts.flatMap((v) => claimRow(c, v)));
  if (!rows.length) return null;
  const name = `${d.material.maker} ${d.material.product}, ${d.material.colour}`;
  return (
    <FigureFrame title={<span style={{ fontSize: "1rem" }}>Claimed and measured</span>} name="claims" about={{ kind: "material", name }} rows={() => [["claim", "measured, % of claimed", "low", "high", "n", "verdict"], ...rows.map((r) => [r.claim, r.measured, r.ci95?.[0] ?? "", r.ci95?.[1] ?? "", r.n, r.verdict])]}>
      <ClaimShares rows={rows} />
    </FigureFrame>
  );
}

/** A verdict as a share of what is claimed; nothing of absences and orders, which claim no figure. */
function claimRow(c: Schemas["DossierClaim"], v: Schemas["ClaimVerdictView"]): ClaimShare[] {
  if (!c.value) return [];
  const share = (value: number) => (100 * value) / (c.value ?? 1);
  return [{ claim: c.text, study: c.verdicts.length > 1 ? v.measured.study : "", measured: share(v.value), ci95: v.ci95 && [share(v.ci95[0]), share(v.ci95[1])], n: v.measured.n, verdict: v.verdict, colour: VERDICTS[v.verdict] ?? "var(--soft)" }];
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
