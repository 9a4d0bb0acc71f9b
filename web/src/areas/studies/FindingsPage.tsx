import { Button, Drawer, SegmentedControl, Select, useComputedColorScheme } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { lazy, Suspense, useCallback, useMemo, useState } from "react";

import type { Schemas } from "../../api/client";
import type { CurveData } from "../../api/curves";
import { curvesOptions, findingsOptions, studyOptions } from "../../api/queries/studies";
import { DotInterval } from "../../figures/DotInterval";
import { FigureFrame } from "../../figures/FigureFrame";
import { decimalsFor, figure, fixed, interval, probability, shownUnit, signed } from "../../ui/format";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import { ArmSwatch } from "../../ui/Swatch";
import { VerdictLegend, VerdictMark } from "../../ui/Verdict";
import { SpecimenPanel } from "./SpecimenPanel";
import { StudyHead } from "./StudyHead";
import css from "./studies.module.css";
import { differenceWords } from "./words";

const CurvesChart = lazy(() => import("../../figures/CurvesChart"));

export function FindingsPage() {
  const { studyId } = useParams({ from: "/studies/$studyId/findings" });
  const search = useSearch({ from: "/studies/$studyId/findings" });
  const navigate = useNavigate({ from: "/studies/$studyId/findings" });
  const study = useQuery(studyOptions(studyId));
  const testId = search.test ?? study.data?.tests[0]?.id;
  const findings = useQuery({ ...findingsOptions(testId ?? "", search.quantity), enabled: Boolean(testId) });
  if (study.isError || findings.isError) return <ErrorNote error={study.error ?? findings.error} again={() => void findings.refetch()} />;
  if (study.isPending || findings.isPending) return <Waiting what="Working out the findings …" />;
  const open = (specimen: string, run: string) => void navigate({ search: (s) => ({ ...s, specimen, run }) });
  const close = () => void navigate({ search: (s) => ({ ...s, specimen: undefined, run: undefined }) });
  const data = findings.data;
  const tested = data.arms.some((a) => a.dots.length);
  return (
    <div className="page">
      <StudyHead study={study.data} />
      <div className={css.pickTest}>
        <SegmentedControl
          value={testId ?? ""}
          onChange={(test) => void navigate({ search: { test } })}
          data={study.data.tests.map((t) => ({ value: t.id, label: `${t.label}, ${t.orientation}` }))}
          aria-label="Test"
        />
        <Select
          aria-label="Quantity"
          w={210}
          value={data.quantity.name}
          onChange={(quantity) => void navigate({ search: (s) => ({ ...s, quantity: quantity ?? undefined }) })}
          data={data.quantities.map((q) => ({ value: q.name, label: `${q.label}${q.unit === "1" ? "" : `, ${q.unit}`}` }))}
          allowDeselect={false}
        />
        <span className="soft" style={{ fontSize: "0.88rem" }}>
          after {data.test.after}, {data.test.shape.label} · own conditions: comparable with itself
        </span>
      </div>
      {tested ? (
        <Evidence findings={data} testId={testId ?? ""} selected={search.run ?? null} onOpen={open} />
      ) : (
        <Empty title="Nothing pulled yet">
          <Button mt="md" renderRoot={(props) => <Link {...props} to="/bench" search={{ test: testId }} />}>
            Go to the bench
          </Button>
        </Empty>
      )}
      <Drawer opened={Boolean(search.specimen)} onClose={close} position="right" size={680} title="Specimen" closeButtonProps={{ "aria-label": "Close the specimen" }}>
        {search.specimen && <SpecimenPanel specimenId={search.specimen} test={data.test} />}
      </Drawer>
    </div>
  );
}

interface EvidenceProps {
  findings: Schemas["Findings"];
  testId: string;
  selected: string | null;
  onOpen: (specimenId: string, runId: string) => void;
}

function Evidence({ findings, testId, selected, onOpen }: EvidenceProps) {
  const curves = useQuery(curvesOptions(testId));
  const scheme = useComputedColorScheme("light");
  const [only, setOnly] = useState<string | null>(null);
  const arms = useMemo(() => new Map(findings.arms.map((a) => [a.arm.id, a.arm])), [findings.arms]);
  const styleOf = useCallback(
    (curve: CurveData) => {
      const arm = arms.get(curve.arm_id ?? "");
      return { name: `${arm?.material.maker ?? ""} ${arm?.material.product ?? ""} · ${curve.code ?? ""}`, colour: visible(arm?.material.hex ?? "", scheme), faint: curve.validity === "left_out" };
    },
    [arms, scheme],
  );
  const strong = useMemo(() => {
    if (selected) return new Set([selected]);
    return new Set(only ? (curves.data ?? []).filter((c) => c.arm_id === only).map((c) => c.id) : []);
  }, [only, selected, curves.data]);
  const specimenOf = useMemo(() => new Map(findings.arms.flatMap((a) => a.dots.map((d) => [d.run_id, d.specimen_id] as const))), [findings.arms]);
  const pick = useCallback(
    (runId: string) => {
      const specimen = specimenOf.get(runId);
      if (specimen) onOpen(specimen, runId);
    },
    [specimenOf, onOpen],
  );
  const q = findings.quantity;
  return (
    <div className={css.findings}>
      <FigureFrame
        title={`${q.label[0]?.toUpperCase() ?? ""}${q.label.slice(1)} of every specimen`}
        name={`${findings.test.label}-${q.name}`}
        rows={() => [
          ["material", "mark", "specimen", "value", "unit", "bound", "state", "reason"],
          ...findings.arms.flatMap((a) => a.dots.map((d) => [`${a.arm.material.maker} ${a.arm.material.product}`, a.arm.mark, d.code, d.value, q.unit, d.bound, d.state, d.reason])),
        ]}
      >
        <DotInterval arms={findings.arms} referenceId={findings.study.reference_arm_id} quantity={q} selected={selected} onSelect={onOpen} />
      </FigureFrame>
      <FigureFrame
        title="Recorded curves"
        name={`${findings.test.label}-curves`}
        makeSvg={async () => (await import("../../figures/CurvesChart")).curvesAsSvg(curves.data ?? [], styleOf)}
        rows={() => [
          ["specimen", "strain %", "stress MPa"],
          ...(curves.data ?? []).flatMap((c) => Array.from({ length: c.points }, (_, i) => [c.code ?? c.id, c.xy[2 * i] ?? null, c.xy[2 * i + 1] ?? null])),
        ]}
        aside={
          <span style={{ display: "flex", gap: 4 }}>
            {findings.arms
              .filter((a) => curves.data?.some((c) => c.arm_id === a.arm.id))
              .map((a) => (
                <button
                  key={a.arm.id}
                  type="button"
                  aria-pressed={only === a.arm.id}
                  aria-label={`${a.arm.mark}: only ${a.arm.material.maker} ${a.arm.material.product}`}
                  onClick={() => setOnly(only === a.arm.id ? null : a.arm.id)}
                  style={{ all: "unset", cursor: "pointer", opacity: only && only !== a.arm.id ? 0.35 : 1, lineHeight: 0 }}
                >
                  <ArmSwatch arm={a.arm} size={26} />
                </button>
              ))}
          </span>
        }
      >
        {curves.isError ? (
          <ErrorNote error={curves.error} />
        ) : curves.data?.length === 0 ? (
          <Empty title="No recordings">These specimens were entered by their peak alone.</Empty>
        ) : (
          <Suspense fallback={<Waiting what="Loading the chart …" />}>
            {curves.data ? (
              <CurvesChart curves={curves.data} styleOf={styleOf} strong={strong} onPick={pick} height={300} scheme={scheme} label={`Stress over strain of ${curves.data.length} recorded pulls; the same specimens are listed in the figure beside`} />
            ) : (
              <Waiting what="Reading the curves …" />
            )}
          </Suspense>
        )}
        <p className="soft" style={{ fontSize: "0.8rem", margin: "0.2rem 0 0" }}>
          Wheel zooms, Shift + wheel zooms upwards, a click opens the specimen. Dashed = left out.
        </p>
      </FigureFrame>
      <Verdicts findings={findings} onOpen={onOpen} />
      <Pairs findings={findings} />
      <div style={{ gridColumn: "1 / -1" }}>
        <VerdictLegend />
      </div>
    </div>
  );
}

/** Very light or very dark filament on a ground of the same kind is nudged until the line can be seen. */
function visible(hex: string, scheme: string): string {
  const n = parseInt(hex.slice(1), 16);
  const rgb = [(n >> 16) & 255, (n >> 8) & 255, n & 255];
  const bright = (0.3 * (rgb[0] ?? 0) + 0.59 * (rgb[1] ?? 0) + 0.11 * (rgb[2] ?? 0)) / 255;
  if (scheme === "light" && bright > 0.72) return `rgb(${rgb.map((c) => Math.round(c * 0.62)).join(",")})`;
  if (scheme === "dark" && bright < 0.35) return `rgb(${rgb.map((c) => Math.round(c * 0.5 + 110)).join(",")})`;
  return hex;
}

function Verdicts({ findings, onOpen }: { findings: Schemas["Findings"]; onOpen: EvidenceProps["onOpen"] }) {
  const { unit, factor } = shownUnit(findings.quantity.unit);
  const reference = findings.arms.find((a) => a.arm.id === findings.study.reference_arm_id);
  const margin = findings.arms.map((a) => a.decision?.margin).find((m) => m != null);
  return (
    <section aria-label="Verdicts">
      <h2 style={{ marginBottom: 4 }}>
        Against {reference ? `${reference.arm.material.maker} ${reference.arm.material.product}` : "the reference"}
        {margin != null && <span className="soft" style={{ fontWeight: 400, fontSize: "0.9rem" }}>{` · ${figure(margin * factor)} ${unit} is the smallest difference that matters`}</span>}
      </h2>
      <table className="plain">
        <thead>
          <tr>
            <th>material</th>
            <th className="num">mean, {unit}</th>
            <th className="num">difference, {unit}</th>
            <th>verdict</th>
          </tr>
        </thead>
        <tbody>
          {findings.arms.map((a) => (
            <tr key={a.arm.id}>
              <td>
                <span style={{ display: "flex", gap: 8, alignItems: "center" }}>
                  <ArmSwatch arm={a.arm} size={26} />
                  <span>
                    {a.arm.material.maker} {a.arm.material.product}
                  </span>
                </span>
              </td>
              <td className="num">
                {a.group ? figure(a.group.mean * factor, a.group.ci95 ? [a.group.ci95[0] * factor, a.group.ci95[1] * factor] : null) : "—"}
                {a.group && <div className="soft">n {a.group.n}</div>}
              </td>
              <td className="num">
                {a.decision ? differenceWords(a.decision, factor) : "—"}
                {a.decision?.ci95 && <div className="soft">{interval([a.decision.ci95[0] * factor, a.decision.ci95[1] * factor])}</div>}
              </td>
              <td>
                {a.arm.id === reference?.arm.id ? <VerdictMark verdict="reference" /> : a.decision ? <VerdictMark verdict={a.decision.verdict} /> : <span className="soft">{a.dots.length} of {a.planned} tested</span>}
                {a.decision?.more_specimens != null && <div className="soft">{a.decision.more_specimens} more of each would decide</div>}
                {[...(a.decision?.notes ?? []), ...a.notes].map((note) => (
                  <div key={note} style={{ fontSize: "0.85rem", color: "var(--caution)", whiteSpace: "normal", maxWidth: 250 }}>
                    {note}
                  </div>
                ))}
                {a.outlier && (
                  <div style={{ fontSize: "0.85rem", color: "var(--caution)" }}>
                    {a.outlier.code} stands out (G {fixed(a.outlier.g, 2)} &gt; {fixed(a.outlier.critical, 2)}); it still counts.{" "}
                    <button
                      type="button"
                      style={{ all: "unset", cursor: "pointer", textDecoration: "underline" }}
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
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Pairs({ findings }: { findings: Schemas["Findings"] }) {
  const { unit, factor } = shownUnit(findings.quantity.unit);
  const arm = (id: string) => findings.arms.find((a) => a.arm.id === id)?.arm;
  const { anova, pairs } = findings;
  if (!anova) return <section />;
  return (
    <section aria-label="All pairs">
      <h2 style={{ marginBottom: 4 }}>
        All pairs
        <span className="soft" style={{ fontWeight: 400, fontSize: "0.9rem" }}>
          {" "}
          · Welch&apos;s ANOVA F {fixed(anova.f, 2)}, df {fixed(anova.df1, 0)} / {fixed(anova.df2, 1)}, p {probability(anova.p)}
        </span>
      </h2>
      <div style={{ maxHeight: 380, overflow: "auto" }} tabIndex={0} role="group" aria-label="Pairs by Games–Howell">
        <table className="plain">
          <thead>
            <tr>
              <th>pair</th>
              <th className="num">difference, {unit}</th>
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
                  <td className="num" style={{ fontWeight: p.p < 0.05 ? 700 : 400 }}>
                    {probability(p.p)}
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
