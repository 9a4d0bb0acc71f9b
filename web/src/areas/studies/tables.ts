import type { Schemas } from "../../api/client";
import type { Cell } from "../../figures/download";
import type { CurveData } from "../../api/curves";
import { boundSign } from "../../ui/format";
import { problemsOf } from "../../ui/Problems";
import { shownQuantity, shownUnit } from "../../ui/units";

type Findings = Schemas["Findings"];

const nameOf = (arm: Schemas["ArmView"] | undefined) => (arm ? `${arm.material.maker} ${arm.material.product}, ${arm.material.colour}` : "");

/** What a mean with bounds among its values is: the sign that stands before it, in words. */
const boundWords = (group: { at_least: number; at_most: number }) => ({ "≥ ": "at least", "≤ ": "at most" })[boundSign(group)] ?? "";

/** Every point of every recording, with what it is of. */
export function curveRows(curves: readonly CurveData[], arms: ReadonlyMap<string, Schemas["ArmView"]>, axes: readonly [string, string]): Cell[][] {
  return [
    ["material", "mark", "specimen", "counts", ...axes],
    ...curves.flatMap((c) => {
      const arm = arms.get(c.arm_id ?? "");
      return Array.from({ length: c.points }, (_, i): Cell[] => [nameOf(arm), arm?.mark ?? "", c.code ?? c.id, (c.validity ?? "").replace("_", " "), c.xy[2 * i] ?? null, c.xy[2 * i + 1] ?? null]);
    }),
  ];
}

/** The verdicts against the reference, in the unit shown; differences of ratios as ratios. */
export function verdictRows(findings: Findings): Cell[][] {
  const { unit, factor, at: shown } = shownQuantity(findings.quantity);
  const ratio = findings.quantity.derived;
  const at = (v: number | null | undefined) => (v == null ? null : ratio ? Math.exp(v) : v * factor);
  return [
    ["test", "quantity", "unit", "material", "mark", "n", "mean", "mean_bound", "ci95_low", "ci95_high", "at_least", "at_most", "difference", "difference_ci95_low", "difference_ci95_high", "margin", "verdict", "more_specimens", "batches", "sd_within_batches", "new_batch_ci95_low", "new_batch_ci95_high", "notes", "problem"],
    ...findings.arms.map((a): Cell[] => {
      const [group, verdict] = [a.group, a.verdict];
      const mean = a.ratio ? a.ratio.ratio : group ? shown(group.mean) : null;
      const ci = a.ratio ? a.ratio.ci95 : group?.ci95 ? group.ci95.map(shown) : null;
      return [
        findings.test.label, findings.quantity.label, unit, nameOf(a.arm), a.arm.mark, group?.n ?? null, mean, group && !a.ratio ? boundWords(group) : "", ci?.[0] ?? null, ci?.[1] ?? null, group?.at_least ?? null, group?.at_most ?? null,
        at(verdict?.difference), at(verdict?.ci95?.[0]), at(verdict?.ci95?.[1]), at(verdict?.margin), verdict?.word ?? (a.arm.id === findings.study.reference_arm_id ? "reference" : ""), verdict?.more_specimens ?? null,
        group?.batches ?? null, group?.within_sd == null ? null : group.within_sd * factor, group?.ci95_new_batch ? shown(group.ci95_new_batch[0]) : null, group?.ci95_new_batch ? shown(group.ci95_new_batch[1]) : null,
        [...(verdict?.notes ?? []), ...a.notes].join("; "), verdict ? problemsOf(findings.problems, a.arm.id).join("; ") : "",
      ]; // prettier-ignore
    }),
  ];
}

/** All pairs by Games and Howell: second minus first. */
export function pairRows(findings: Findings): Cell[][] {
  const { unit, factor } = shownQuantity(findings.quantity);
  const arm = (id: string) => findings.arms.find((a) => a.arm.id === id)?.arm;
  return [
    ["test", "quantity", "unit", "first", "second", "second_minus_first", "joint_ci95_low", "joint_ci95_high", "p", "note", "problem"],
    ...findings.pairs.map((p): Cell[] => [findings.test.label, findings.quantity.label, unit, nameOf(arm(p.a)), nameOf(arm(p.b)), p.difference * factor, p.ci95[0] * factor, p.ci95[1] * factor, p.p, p.note, findings.problems.map((problem) => problem.text).join("; ")]),
  ];
}

/** What so many specimens of each detect, test by test; shares of the mean. */
export function powerRows(power: Schemas["PowerView"]): Cell[][] {
  return [
    ["test", "specimens_of_each", "batches_of_each", "difference_detected", "target_difference", "difference_that_matters", "scatter_within_batches", "scatter_seen_on", "batch_to_within", "planned"],
    ...power.rows.flatMap((r) => r.detectable.map((detected, i): Cell[] => [`${r.label}, ${r.orientation}`, i + 2, power.batches, detected, r.target, r.margin, r.cv, r.scatter_specimens, r.batch_ratio, r.replicates])),
  ];
}

/** The board: a line for every material and test. */
export function boardRows(study: Schemas["StudyView"], columns: readonly Schemas["EvidenceView"][], problems: readonly Schemas["ProblemView"][]): Cell[][] {
  return [
    ["test", "quantity", "unit", "material", "mark", "planned", "printed", "tested", "n", "mean", "mean_bound", "at_least", "at_most", "sd", "ci95_low", "ci95_high", "verdict", "notes", "problem"],
    ...columns.flatMap((c) => {
      const { unit, factor, at } = shownUnit(c.unit);
      const shown = (v: number | null | undefined) => (v == null ? null : at(v));
      return c.cells.map((cell): Cell[] => {
        const arm = study.arms.find((a) => a.id === cell.arm_id);
        const g = cell.group;
        const word = cell.verdict?.word ?? (cell.arm_id === study.reference_arm_id ? "reference" : "");
        return [`${c.label}, ${c.orientation}`, c.quantity_label, unit, nameOf(arm), arm?.mark ?? "", cell.planned, cell.printed, cell.tested, g?.n ?? 0, shown(g?.mean), g ? boundWords(g) : "", g?.at_least ?? 0, g?.at_most ?? 0, g?.sd == null ? null : g.sd * factor, shown(g?.ci95?.[0]), shown(g?.ci95?.[1]), word, [...(cell.verdict?.notes ?? []), ...cell.notes].join("; "), cell.verdict ? problemsOf(problems, cell.arm_id).join("; ") : ""];
      });
    }),
  ];
}

/** Every specimen with its value, as it is shown. */
export function specimenRows(findings: Schemas["Findings"]): Cell[][] {
  const shown = shownQuantity(findings.quantity);
  return [
    ["material", "mark", "specimen", "value", "unit", "bound", "state", "reason"],
    ...findings.arms.flatMap((a) => a.dots.map((d) => [`${a.arm.material.maker} ${a.arm.material.product}`, a.arm.mark, d.code, d.value === null ? null : shown.at(d.value), shown.unit, d.bound, d.state, d.reason])),
  ];
}
