import { Button, Drawer, SegmentedControl, Select, Switch } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode } from "react";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";

import type { Schemas } from "../../api/client";
import { findingsOptions, studyOptions } from "../../api/queries/studies";
import { DotInterval } from "../../figures/DotInterval";
import { FigureFrame, TakeTable } from "../../figures/FigureFrame";
import { boundSign, capital, decimalsFor, figure, fixed, interval, probability, signed } from "../../ui/format";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import { ArmSwatch, armWords } from "../../ui/Swatch";
import { Problems, problemsOf, VerdictWithProblems } from "../../ui/Problems";
import { VerdictLegend, VerdictMark } from "../../ui/Verdict";
import { Curves } from "./Curves";
import { OtherOrientation, useOtherOrientations } from "./Orientations";
import { SpecimenPanel } from "./SpecimenPanel";
import { StudyHead } from "./StudyHead";
import { usePlan } from "./usePlan";
import { pairRows, specimenRows, verdictRows } from "./tables";
import { VerdictNote } from "./Margins";
import css from "./studies.module.css";
import { Wide } from "../../ui/Wide";
import { differenceWords, pieceWords } from "./words";
import { type Shown, shownQuantity } from "../../ui/units";

export function FindingsPage() {
  const { studyId } = useParams({ from: "/studies/$studyId/findings" });
  const search = useSearch({ from: "/studies/$studyId/findings" });
  const navigate = useNavigate({ from: "/studies/$studyId/findings" });
  const study = useQuery(studyOptions(studyId));
  const testId = search.test ?? study.data?.tests[0]?.id;
  const findings = useQuery({ ...findingsOptions(testId ?? "", search.quantity, search.end), enabled: Boolean(testId) });
  if (study.isError || findings.isError) return <ErrorNote error={study.error ?? findings.error} again={() => void findings.refetch()} />;
  if (study.isPending || findings.isPending) return <Waiting what="Working out the findings …" />;
  const open = (specimen: string | null, run: string) => void navigate({ search: (s) => ({ ...s, specimen: specimen ?? undefined, run }) });
  const close = () => void navigate({ search: (s) => ({ ...s, specimen: undefined, run: undefined }) });
  const data = findings.data;
  const tested = data.arms.some((a) => a.dots.length || a.ratio);
  return (
    <div className="page">
      <StudyHead study={study.data} />
      <div className={css.pickTest}>
        <PickTest tests={study.data.tests} chosen={testId ?? ""} onChoose={(test) => void navigate({ search: { test } })} />
        <Select
          aria-label="Quantity"
          w={260}
          value={data.quantity.name}
          onChange={(quantity) => void navigate({ search: (s) => ({ ...s, quantity: quantity ?? undefined, end: undefined }) })}
          data={data.quantities.map((q) => ({ value: q.name, label: [q.label, shownQuantity(q).unit].filter(Boolean).join(", ") }))}
          allowDeselect={false}
        />
        {data.ends.length > 1 && (
          <Select
            aria-label="How it ended"
            w={240}
            value={data.end}
            onChange={(end) => void navigate({ search: (s) => ({ ...s, end: end ?? undefined }) })}
            data={data.ends}
            allowDeselect={false}
          />
        )}
        {(study.data.bounds_in || data.arms.some((a) => a.group?.at_least)) && <BoundsIn study={study.data} />}
        <span className="soft" style={{ fontSize: "0.88rem" }}>
          {data.test.after === "own method" ? "own method" : `after ${data.test.after}, own conditions`}, {data.test.shape.label} · comparable with itself
        </span>
      </div>
      <Problems problems={data.problems.map((p) => p.text)} />
      {tested ? (
        <Evidence findings={data} tests={study.data.tests} testId={testId ?? ""} selected={search.run ?? null} onOpen={open} />
      ) : (
        <NothingYet findings={data} testId={testId} />
      )}
      <Drawer opened={Boolean(search.specimen)} onClose={close} position="right" size={680} title="Specimen" closeButtonProps={{ "aria-label": "Close the specimen" }}>
        {search.specimen && <SpecimenPanel specimenId={search.specimen} test={data.test} />}
      </Drawer>
    </div>
  );
}

/** Before the first result: where the specimens are, and what brings it on. */
function NothingYet({ findings, testId }: { findings: Schemas["Findings"]; testId: string | undefined }) {
  const begun = findings.arms.reduce((n, a) => n + a.measured, 0);
  const rounds = findings.test.rounds;
  return (
    <Empty within title={begun ? `${String(begun)} under way, no result yet` : "Nothing tested yet"}>
      {begun > 0 && rounds && <p>The first readings of a round bring the first result.</p>}
      <Button mt="md" renderRoot={(props) => (begun > 0 && rounds ? <Link {...props} to="/bench/racks" /> : <Link {...props} to="/bench" search={{ test: testId }} />)}>
        {begun > 0 && rounds ? "Go to the rounds" : "Go to the bench"}
      </Button>
    </Empty>
  );
}

/** Tests side by side; many of them as a list. */
function PickTest({ tests, chosen, onChoose }: { tests: readonly Schemas["TestView"][]; chosen: string; onChoose: (test: string) => void }) {
  const data = tests.map((t) => ({ value: t.id, label: `${t.label}, ${t.orientation}` }));
  if (data.length > 7) return <Select aria-label="Test" w={250} data={data} value={chosen} allowDeselect={false} onChange={(test) => test && onChoose(test)} />;
  return <SegmentedControl value={chosen} onChange={onChoose} data={data} aria-label="Test" styles={{ root: { flexWrap: "wrap" } }} />;
}

/** Whether means include lower bounds; else bounds are treated as exact. */
function BoundsIn({ study }: { study: Schemas["StudyView"] }) {
  const { edit } = usePlan(study);
  return <Switch size="xs" label="include bounds in means" title="Lower bounds (grip breaks, not broken) are included in mean and verdict by a Weibull fit, where at least three broke" checked={study.bounds_in} onChange={(e) => void edit({ bounds_in: e.currentTarget.checked })} />;
}

interface EvidenceProps {
  findings: Schemas["Findings"];
  tests: readonly Schemas["TestView"][];
  testId: string;
  selected: string | null;
  onOpen: (specimenId: string | null, runId: string) => void;
}

function Evidence({ findings, tests, testId, selected, onOpen }: EvidenceProps) {
  const q = findings.quantity;
  const others = useOtherOrientations(findings, tests);
  const arms = findings.arms.map(asGroup);
  return (
    <div className={css.findings}>
      <FigureFrame
        title={`${capital(q.label)} ${q.derived ? "of every material" : "of every specimen"}${others.length ? `, ${findings.test.orientation}` : ""}`}
        name={`${findings.test.label} ${q.name}`}
        about={{ kind: "study", name: findings.study.title }}
        rows={() => specimenRows(findings)}
      >
        <DotInterval arms={arms} also={others.flatMap((o) => o.arms)} referenceId={findings.study.reference_arm_id} quantity={q} selected={selected} onSelect={onOpen} />
      </FigureFrame>
      {others.map((o) => (
        <OtherOrientation key={o.test.id} findings={o} beside={[...arms, ...others.flatMap((x) => (x === o ? [] : x.arms))]} onOpen={onOpen} />
      ))}
      <Curves findings={findings} testId={testId} selected={selected} onOpen={onOpen} />
      <Verdicts findings={findings} onOpen={onOpen} />
      <Pairs findings={findings} />
      <div style={{ gridColumn: "1 / -1" }}>
        <VerdictLegend thin={findings.arms.some((a) => a.group?.ci95_new_batch != null)} />
      </div>
    </div>
  );
}

/** A ratio is drawn like a mean: its value with its interval. */
function asGroup(a: Schemas["FindingArm"]): Schemas["FindingArm"] {
  if (!a.ratio) return a;
  const { ratio: mean, ci95, bound } = a.ratio;
  return { ...a, group: { n: 0, mean, sd: null, cv: null, ci95, median: mean, minimum: mean, maximum: mean, batches: 0, within_sd: null, ci95_new_batch: null, at_least: Number(bound === "at_least"), at_most: Number(bound === "at_most") } };
}

function Verdicts({ findings, onOpen }: { findings: Schemas["Findings"]; onOpen: EvidenceProps["onOpen"] }) {
  const shown = shownQuantity(findings.quantity);
  const { unit, factor } = shown;
  const reference = findings.arms.find((a) => a.arm.id === findings.study.reference_arm_id);
  const margin = findings.arms.map((a) => a.verdict?.margin).find((m) => m != null);
  return (
    <section aria-label="Verdicts">
      <div className={css.tableHead}>
        <h2>
          Against {reference ? [`${reference.arm.material.maker} ${reference.arm.material.product}`, armWords(reference.arm)].filter(Boolean).join(", ") : "the reference"}
          {margin != null && <span className="soft" style={{ fontWeight: 400, fontSize: "0.9rem" }}>{` · ${findings.quantity.derived ? `× ${fixed(Math.exp(margin), 2)}` : `${figure(margin * factor)} ${unit}`} is the smallest difference that matters`}</span>}
        </h2>
        <TakeTable name={`verdicts on ${findings.quantity.label}`} about={{ kind: "study", name: findings.study.title }} rows={() => verdictRows(findings)} />
      </div>
      {findings.batch_ratio && <BatchWords ratio={findings.batch_ratio} />}
      <Wide label="Verdicts against the reference">
        <table className="plain">
          <thead>
            <tr>
              <th>material</th>
              <th className="num">{unit ? `mean, ${unit}` : findings.quantity.label}</th>
              <th className="num">{unit ? `difference, ${unit}` : "to the reference"}</th>
              <th>verdict</th>
            </tr>
          </thead>
          <tbody>
            {findings.arms.map((a) => (
              <VerdictRow key={a.arm.id} finding={a} isReference={a.arm.id === reference?.arm.id} shown={shown} problems={problemsOf(findings.problems, a.arm.id)} end={findings.end} note={(text) => <VerdictNote studyId={findings.study.id} testId={findings.test.id} note={text} />} onOpen={onOpen} />
            ))}
          </tbody>
        </table>
      </Wide>
    </section>
  );
}

/** How far prints differ from one another, over the arms of the test. */
function BatchWords({ ratio }: { ratio: Schemas["BatchRatioView"] }) {
  return (
    <p className="soft">
      Scatter between print batches: <strong className="figure">{fixed(ratio.ratio, 2)} ×</strong> the scatter within one; it is in the intervals.
      {ratio.few && <span style={{ color: "var(--caution)" }}> Few batches: the intervals cover 92–97 % instead of 95 %.</span>}
    </p>
  );
}

interface VerdictRowProps {
  finding: Schemas["FindingArm"];
  isReference: boolean;
  problems: readonly string[];
  /** A note of a verdict, with the way to what it asks for. */
  note: (text: string) => ReactNode;
  /** The way of ending that is compared; "" where ways of ending are averaged. */
  end: string;
  shown: Shown;
  onOpen: EvidenceProps["onOpen"];
}

function VerdictRow({ finding: a, isReference, shown, problems, end, onOpen, note: noteOf }: VerdictRowProps) {
  return (
    <tr>
      <td>
        <span style={{ display: "flex", gap: 8, alignItems: "center" }}>
          <ArmSwatch arm={a.arm} size={26} />
          <span>
            {a.arm.material.maker} {a.arm.material.product}
            {armWords(a.arm) && <span className="soft"> {armWords(a.arm)}</span>}
            {a.per_spool && <div className="soft" style={{ fontSize: "0.85rem" }}>{pieceWords(a.per_spool)}</div>}
          </span>
        </span>
      </td>
      <td className="num">
        <MeanOf finding={a} shown={shown} />
        {a.ends.filter((e) => e.end !== end).map((e) => (
          <div key={e.end} className="soft" style={{ fontSize: "0.85rem", whiteSpace: "normal" }}>
            {e.end}: {figure(shown.at(e.mean), e.ci95 ? shown.ends(e.ci95) : null)}, n {e.n}
          </div>
        ))}
      </td>
      <td className="num">
        <DifferenceOf finding={a} factor={shown.factor} />
      </td>
      <td>
        {isReference ? <VerdictMark verdict="reference" /> : a.verdict ? <VerdictWithProblems verdict={a.verdict.word} problems={problems} /> : <span className="soft">{a.ratio ? a.measured : a.dots.length} of {a.planned} tested</span>}
        {a.verdict?.more_specimens != null && <div className="soft">{a.verdict.more_specimens} more of each would decide</div>}
        {[...(a.verdict?.notes ?? []), ...a.notes].map((note) => (
          <div key={note} className="soft" style={{ fontSize: "0.85rem", whiteSpace: "normal", maxWidth: 250 }}>
            {noteOf(note)}
          </div>
        ))}
        {a.outlier && (
          <div style={{ fontSize: "0.85rem", color: "var(--caution)" }}>
            {a.outlier.code} is an outlier (G {fixed(a.outlier.g, 2)} &gt; {fixed(a.outlier.critical, 2)}); it still counts.{" "}
            <button
              type="button"
              style={{ all: "unset", cursor: "pointer", textDecoration: "underline", display: "inline-flex", alignItems: "center", minHeight: 24 }}
              onClick={() => {
                const dot = a.dots.find((d) => d.run_id === a.outlier?.run_id);
                if (dot) onOpen(dot.specimen_id, dot.run_id);
              }}
            >
              Look at it
            </button>
          </div>
        )}
      </td>
    </tr>
  );
}

/** The mean of the specimens that count, or the ratio where the quantity is one. */
function MeanOf({ finding: a, shown }: { finding: Schemas["FindingArm"]; shown: Shown }) {
  if (a.ratio) {
    const ci = a.ratio.ci95;
    return (
      <>
        {a.ratio.bound === "at_least" ? "≥ " : a.ratio.bound === "at_most" ? "≤ " : ""}
        {figure(shown.at(a.ratio.ratio), ci ? shown.ends(ci) : null)}
        {ci && <div className="soft">{interval(shown.ends(ci))}</div>}
      </>
    );
  }
  if (!a.group) return "—";
  const ci = a.group.ci95;
  return (
    <>
      {boundSign(a.group)}
      {figure(shown.at(a.group.mean), ci ? shown.ends(ci) : null)}
      <div className="soft">
        n {a.group.n}
        {a.group.batches > 1 && ` in ${String(a.group.batches)} batches`}
        {a.group.at_least > 0 && `, ${String(a.group.at_least)} at least`}
        {a.group.at_most > 0 && `, ${String(a.group.at_most)} at most`}
      </div>
      {a.group.batches > 1 && a.group.within_sd !== null && <div className="soft">sd within {figure(a.group.within_sd * shown.factor)}</div>}
    </>
  );
}

/** How far from the reference; ratios are compared by their quotient. */
function DifferenceOf({ finding: a, factor }: { finding: Schemas["FindingArm"]; factor: number }) {
  if (!a.verdict) return "—";
  const ci = a.verdict.ci95;
  if (a.ratio) {
    return (
      <>
        × {fixed(Math.exp(a.verdict.difference), 3)}
        {ci && <div className="soft">{interval([Math.exp(ci[0]), Math.exp(ci[1])])}</div>}
      </>
    );
  }
  return (
    <>
      {differenceWords(a.verdict, factor)}
      {ci && <div className="soft">{interval([ci[0] * factor, ci[1] * factor])}</div>}
    </>
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

function Pairs({ findings }: { findings: Schemas["Findings"] }) {
  const { unit, factor } = shownQuantity(findings.quantity);
  const arm = (id: string) => findings.arms.find((a) => a.arm.id === id)?.arm;
  const { anova, agreement, pairs } = findings;
  if (agreement) return <Agreed agreement={agreement} />;
  if (!anova) return <section />;
  return (
    <section aria-label="All pairs">
      <div className={css.tableHead}>
        <h2>
          All pairs
          <span className="soft" style={{ fontWeight: 400, fontSize: "0.9rem" }}>
            {" "}
            · Welch&apos;s ANOVA F {fixed(anova.f, 2)}, df {fixed(anova.df1, 0)} / {fixed(anova.df2, 1)}, p {probability(anova.p)}
          </span>
        </h2>
        <TakeTable name={`pairs of ${findings.quantity.label}`} about={{ kind: "study", name: findings.study.title }} rows={() => pairRows(findings)} />
      </div>
      <div style={{ maxHeight: 380, overflow: "auto" }} tabIndex={0} role="group" aria-label="Pairs by Games–Howell">
        <table className="plain">
          <thead>
            <tr>
              <th>pair</th>
              <th className="num">{unit ? `difference, ${unit}` : "to the reference"}</th>
              <th className="num">joint 95 % interval</th>
              <th className="num">p</th>
            </tr>
          </thead>
          <tbody>
            {pairs.map((p) => {
              const a = arm(p.a);
              const b = arm(p.b);
              const ci: [number, number] = [p.ci95[0] * factor, p.ci95[1] * factor];
              return (
                <tr key={p.a + p.b}>
                  <td>
                    <span style={{ display: "flex", gap: 6, alignItems: "center" }}>
                      {b && <ArmSwatch arm={b} size={24} />} <span className="soft">−</span> {a && <ArmSwatch arm={a} size={24} />}
                    </span>
                  </td>
                  <td className="num">{signed(p.difference * factor, decimalsFor(p.difference * factor, ci))}</td>
                  <td className="num soft">{interval(ci)}</td>
                  <td className="num" style={{ fontWeight: p.p < 0.05 ? 700 : 400 }} title={p.note ?? undefined}>
                    {probability(p.p)}
                    {p.note && (
                      <div className="soft" style={{ fontWeight: 400, fontSize: "0.85rem", whiteSpace: "normal", maxWidth: 240, textAlign: "left" }}>
                        {p.note}
                      </div>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </section>
  );
}
