import { SegmentedControl, useComputedColorScheme } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useCallback, useMemo, useState } from "react";

import type { Schemas } from "../../api/client";
import { type CurveData, xLabel } from "../../api/curves";
import { curvesOptions } from "../../api/queries/studies";
import type { CurveStyle } from "../../figures/CurvesChart";
import { FigureFrame } from "../../figures/FigureFrame";
import { capital } from "../../ui/format";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { ArmSwatch, armWords, NEUTRAL } from "../../ui/Swatch";
import { useUnits } from "../../ui/units";
import { shownCurve, type ShownCurve } from "../../figures/shownCurve";
import { curveRows } from "./tables";

const CurvesChart = lazy(() => import("../../figures/CurvesChart"));

/** Lines of unlike arms differ in grey too. */
const DASHES: readonly CurveStyle["dash"][] = ["solid", [9, 4], [2, 3], [11, 3, 2, 3], [5, 3], [14, 3, 2, 3, 2, 3]];

interface CurvesProps {
  findings: Schemas["Findings"];
  testId: string;
  selected: string | null;
  onOpen: (specimenId: string | null, runId: string) => void;
}

/** What every run recorded, one over another; over the logarithm of time where that reads better. */
export function Curves({ findings, testId, selected, onOpen }: CurvesProps) {
  const all = useShownCurves(testId);
  const [few, setFew] = useState(false);
  const typical = useMemo(() => new Set(findings.arms.flatMap((a) => representative(a) ?? [])), [findings.arms]);
  const curves = useMemo(() => ({ ...all, data: few ? all.data?.filter((c) => typical.has(c.id)) : all.data }), [all, few, typical]);
  const scheme = useComputedColorScheme("light");
  const [only, setOnly] = useState<string | null>(null);
  const [plain, setPlain] = useState(false);
  const arms = useMemo(() => new Map(findings.arms.map((a) => [a.arm.id, a.arm])), [findings.arms]);
  const order = useMemo(() => findings.arms.map((a) => a.arm.id), [findings.arms]);
  const styleOf = useCallback(
    (curve: CurveData) => {
      const arm = arms.get(curve.arm_id ?? "");
      const words = arm ? [`${arm.mark} · ${arm.material.maker} ${arm.material.product}`, armWords(arm) || arm.material.colour].filter(Boolean).join(", ") : "";
      return { name: `${words} · ${curve.code ?? ""}`, group: words, mark: arm?.mark ?? "", hex: arm?.material.hex ?? NEUTRAL, dash: DASHES[order.indexOf(curve.arm_id ?? "") % DASHES.length] ?? "solid", colour: visible(arm?.material.hex ?? "", scheme), faint: curve.validity === "left_out" };
    },
    [arms, order, scheme],
  );
  const strong = useMemo(() => {
    if (selected) return new Set([selected]);
    return new Set(only ? (curves.data ?? []).filter((c) => c.arm_id === only).map((c) => c.id) : []);
  }, [only, selected, curves.data]);
  const specimenOf = useMemo(() => new Map(findings.arms.flatMap((a) => a.dots.map((d) => [d.run_id, d.specimen_id] as const))), [findings.arms]);
  const pick = useCallback((runId: string) => onOpen(specimenOf.get(runId) ?? null, runId), [specimenOf, onOpen]);
  const first = curves.data?.[0];
  // single readings alone have no curves: the verdicts stand beside the figure then
  if (all.data?.length === 0) return null;
  const [x, y] = first ? [`${xLabel(curves.data ?? [])}, ${first.x_unit}`, `${first.y_label}, ${first.y_unit}`] : ["", ""];
  return (
    <FigureFrame
      title={first ? `${capital(first.y_label)} over ${xLabel(curves.data ?? [])}` : "Curves"}
      name={`${findings.test.label} curves`}
      about={{ kind: "study", name: findings.study.title }}
      makeSvg={async () => (await import("../../figures/CurvesChart")).curvesAsSvg(curves.data ?? [], styleOf, few)}
      rows={() => curveRows(curves.data ?? [], arms, [x, y])}
      aside={
        <span style={{ display: "flex", gap: 4, alignItems: "center", flexWrap: "wrap" }}>
          {typical.size > 0 && (all.data?.length ?? 0) > typical.size && <SegmentedControl size="xs" value={few ? "few" : "all"} onChange={(v) => setFew(v === "few")} data={[{ value: "all", label: "every specimen" }, { value: "few", label: "one of each" }]} aria-label="Which curves" />}
          {first?.log_x && <SegmentedControl size="xs" value={plain ? "plain" : "log"} onChange={(v) => setPlain(v === "plain")} data={[{ value: "log", label: "log time" }, { value: "plain", label: "plain time" }]} aria-label="Axis of time" />}
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
      ) : (
        <Suspense fallback={<Waiting what="Loading the chart …" />}>
          {curves.data ? (
            <CurvesChart curves={curves.data} styleOf={styleOf} strong={strong} onPick={pick} height={300} scheme={scheme} log={(first?.log_x ?? false) && !plain} detailed={few} label={`${y} over ${x} of ${String(curves.data.length)} specimens; the same ones are listed in the figure beside`} />
          ) : (
            <Waiting what="Reading the curves …" />
          )}
        </Suspense>
      )}
      {curves.data && curves.data.length > 0 && (
        <p className="soft" style={{ fontSize: "0.8rem", margin: "0.2rem 0 0" }}>
          Wheel zooms, Shift + wheel zooms upwards, a click opens the specimen. {explained(curves.data, few)}
        </p>
      )}
    </FigureFrame>
  );
}

/** The specimen of an arm that is nearest to its median, of those that count. */
function representative(a: Schemas["FindingArm"]): string | null {
  const counted = a.dots.flatMap((d) => (d.state === "counts" && d.value !== null ? [{ id: d.run_id, value: d.value }] : []));
  const median = a.group?.median;
  if (median === undefined || !counted.length) return null;
  return counted.reduce((best, d) => (Math.abs(d.value - median) < Math.abs(best.value - median) ? d : best)).id;
}

/** What the signs in the figure mean, of those that there are. */
function explained(curves: readonly ShownCurve[], few: boolean): string {
  const some = (has: (c: ShownCurve) => boolean) => curves.some(has);
  const words = [
    few && "one specimen of each arm, the nearest to its median",
    some((c) => c.parts.readings.length > 0) && "small points = every reading at a load, from left to right as it sagged",
    some((c) => c.parts.law.length > 0) && "points = differences between readings as read; dashed = the fitted law",
    some((c) => Object.keys(c.marks).some((name) => name.startsWith("line"))) && "straight dashed line = fit",
    few && some((c) => c.parts.end !== null) && "× = break, broad = range of the modulus",
    !few && "thin and pale = left out",
  ].filter(Boolean);
  return `${capital(words.join("; "))}.`;
}

/** The curves in the units shown; the marks, which this figure does not draw, stay as sent. */
function useShownCurves(testId: string) {
  const units = useUnits();
  const curves = useQuery(curvesOptions(testId));
  // eslint-disable-next-line react-hooks/exhaustive-deps -- what is chosen decides how they are shown
  const data = useMemo(() => curves.data?.map(shownCurve), [curves.data, units]);
  return { data, isError: curves.isError, error: curves.error };
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
