import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";

import type { Schemas } from "../../api/client";
import { spreadOptions } from "../../api/queries/studies";
import { FigureFrame, TakeTable } from "../../figures/FigureFrame";
import { WeibullPlot } from "../../figures/WeibullPlot";
import { boundSign, decimalsFor, figure, fixed, inText, interval, probability, signed } from "../../ui/format";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { ArmSwatch } from "../../ui/Swatch";
import { type Shown, shownQuantity } from "../../ui/units";
import { Wide } from "../../ui/Wide";
import { pieceWords } from "../studies/words";
import css from "./findings.module.css";
import { pairRows, verdictRows } from "./tables";

type Findings = Schemas["Findings"];

function Part({ title, about, children }: { title: string; about?: string; children: ReactNode }) {
  return (
    <details className={css.details}>
      <summary>
        {title} {about && <span className="soft">{about}</span>}
      </summary>
      {children}
    </details>
  );
}

/** What is seldom spread for: scatter and batches of each arm, ways of ending, what pieces cost, and all pairs. */
export function Details({ findings }: { findings: Findings }) {
  return (
    <>
      <Scatter findings={findings} />
      <Spread findings={findings} />
      <Pairs findings={findings} />
    </>
  );
}

function Scatter({ findings }: { findings: Findings }) {
  const shown = shownQuantity(findings.quantity);
  const ratio = findings.batch_ratio;
  return (
    <Part title="Means, scatter and batches">
      {ratio && (
        <p className="soft">
          Scatter between print batches: <strong className="figure">{fixed(ratio.ratio, 2)} ×</strong> the scatter within one; it is in the intervals.
          {ratio.few && <span style={{ color: "var(--caution)" }}> Few batches: the intervals cover 92–97 % instead of 95 %.</span>}
        </p>
      )}
      <TakeTable name={`verdicts on ${findings.quantity.label}`} about={{ kind: "study", name: findings.study.title }} rows={() => verdictRows(findings)} />
      <Wide label="Means, scatter and batches">
        <table className="plain">
          <thead>
            <tr>
              <th>arm</th>
              <th className="num">{shown.unit ? `mean, ${shown.unit}` : findings.quantity.label}</th>
              <th className="num">95 % interval</th>
              <th className="num">sd</th>
              <th className="num" title="90 % of parts reach it, with 95 % confidence; of these prints">design value</th>
              <th>specimens</th>
            </tr>
          </thead>
          <tbody>
            {findings.arms.map((a) => (
              <ScatterRow key={a.arm.id} finding={a} shown={shown} end={findings.end} />
            ))}
          </tbody>
        </table>
      </Wide>
    </Part>
  );
}

function ScatterRow({ finding: a, shown, end }: { finding: Schemas["FindingArm"]; shown: Shown; end: string }) {
  const ci = a.ratio?.ci95 ?? a.group?.ci95 ?? null;
  const ends = ci && shown.ends(ci);
  return (
    <tr>
      <td>
        <span style={{ display: "flex", gap: 8, alignItems: "center" }}>
          <ArmSwatch arm={a.arm} size={24} />
          <span>
            {a.name}
            {a.per_spool && <div className="soft">{pieceWords(a.per_spool)}</div>}
          </span>
        </span>
      </td>
      <td className="num">
        {a.ratio ? figure(shown.at(a.ratio.ratio), ends) : a.group ? boundSign(a.group) + figure(shown.at(a.group.mean), ends) : "—"}
        {a.ends.filter((e) => e.end !== end).map((e) => (
          <div key={e.end} className="soft" style={{ whiteSpace: "normal" }}>
            {e.end}: {figure(shown.at(e.mean), e.ci95 ? shown.ends(e.ci95) : null)}, n {e.n}
          </div>
        ))}
      </td>
      <td className="num">{ends ? interval(ends) : "—"}</td>
      <td className="num">
        {a.group?.sd == null ? "—" : figure(a.group.sd * shown.factor)}
        {a.group && a.group.batches > 1 && a.group.within_sd !== null && <div className="soft">within {figure(a.group.within_sd * shown.factor)}</div>}
      </td>
      <td className="num">{a.design_value === null ? "—" : figure(shown.at(a.design_value), ends)}</td>
      <td>
        n {a.group?.n ?? 0} of {a.planned}
        {a.group && a.group.batches > 1 && ` in ${String(a.group.batches)} batches`}
      </td>
    </tr>
  );
}

/** Breaks on Weibull paper, worked out when it is opened. */
function Spread({ findings }: { findings: Findings }) {
  const [open, setOpen] = useState(false);
  const { quantity: q, test } = findings;
  const spread = useQuery(spreadOptions(test.id, { quantity: q.name, end: findings.end }, open));
  if (q.derived || !findings.arms.some((a) => a.group && a.group.n >= 3) || findings.arms.every((a) => a.group?.cv == null)) return null;
  const shown = shownQuantity(q);
  const label = [q.label, shown.unit].filter(Boolean).join(", ");
  const lines = (spread.data?.arms ?? []).flatMap((s) => {
    const arm = findings.arms.find((a) => a.arm.id === s.arm_id)?.arm;
    return arm ? [{ name: s.name, swatch: { hex: arm.material.hex, mark: arm.mark, filled: arm.material.filler !== null }, points: s.points.map(([v, share]) => [shown.at(v), share] as const), shape: s.shape, scale: s.scale === null ? null : shown.at(s.scale) }] : [];
  });
  return (
    <details className={css.details} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>
        Weibull plot <span className="soft">how strengths spread, lower bounds included in the line</span>
      </summary>
      {spread.isError && <ErrorNote error={spread.error} />}
      {open && spread.isPending && <Waiting what="Fitting the lines …" />}
      {lines.length > 0 && (
        <FigureFrame title={`Weibull plot of ${inText(q.label)}`} name={`${test.label} Weibull`} about={{ kind: "study", name: findings.study.title }} rows={() => [["arm", label, "share broken"], ...lines.flatMap((l) => l.points.map(([v, share]) => [l.name, v, share]))]}>
          <WeibullPlot lines={lines} label={label} />
        </FigureFrame>
      )}
    </details>
  );
}

/** How far the people's orders are one. */
function Agreed({ agreement }: { agreement: Schemas["AgreementView"] }) {
  const { w, graders, prints } = agreement;
  return (
    <section aria-label="Agreement">
      <h2>Agreement of the orders</h2>
      <p>
        Kendall&apos;s W <strong>{fixed(w, 2)}</strong>, from 0 (nothing in common) to 1 (one order): {graders} people, {prints} prints that all of them put in order.
      </p>
    </section>
  );
}

function Pairs({ findings }: { findings: Findings }) {
  const { unit, factor } = shownQuantity(findings.quantity);
  const name = (id: string) => findings.arms.find((a) => a.arm.id === id)?.name ?? "";
  const { anova, agreement, pairs } = findings;
  if (agreement) return <Agreed agreement={agreement} />;
  if (!anova) return null;
  return (
    <Part title="All pairs" about={`· Welch's ANOVA F ${fixed(anova.f, 2)}, df ${fixed(anova.df1, 0)} / ${fixed(anova.df2, 1)}, p ${probability(anova.p)}`}>
      <TakeTable name={`pairs of ${findings.quantity.label}`} about={{ kind: "study", name: findings.study.title }} rows={() => pairRows(findings)} />
      <Wide label="Pairs by Games–Howell">
        <table className="plain">
          <thead>
            <tr>
              <th>pair</th>
              <th className="num">{unit ? `difference, ${unit}` : "difference"}</th>
              <th className="num">joint 95 % interval</th>
              <th className="num">p</th>
              <th>note</th>
            </tr>
          </thead>
          <tbody>
            {pairs.map((p) => {
              const ci: [number, number] = [p.ci95[0] * factor, p.ci95[1] * factor];
              return (
                <tr key={p.a + p.b}>
                  <td>
                    {name(p.b)} <span className="soft">−</span> {name(p.a)}
                  </td>
                  <td className="num">{signed(p.difference * factor, decimalsFor(p.difference * factor, ci))}</td>
                  <td className="num soft">{interval(ci)}</td>
                  <td className="num" style={{ fontWeight: p.p < 0.05 ? 700 : 400 }}>
                    {probability(p.p)}
                  </td>
                  <td className="soft" style={{ fontSize: "0.85rem" }}>
                    {p.note}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </Wide>
    </Part>
  );
}
