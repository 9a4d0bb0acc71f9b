import type { Schemas } from "../../api/client";
import type { Cell } from "../../figures/download";
import { boundSign } from "../../ui/format";
import { doubtWords } from "../../ui/doubts";
import { problemsOf } from "../../ui/Problems";
import { shownUnit } from "../../ui/units";

/** Maker, product and colour of an arm, for tables. */
export const nameOf = (arm: Schemas["ArmView"] | undefined) => (arm ? `${arm.material.maker} ${arm.material.product}, ${arm.material.colour}` : "");

/** What a mean with bounds among its values is: the sign that stands before it, in words. */
export const boundWords = (group: { at_least: number; at_most: number }) => ({ "≥ ": "at least", "≤ ": "at most" })[boundSign(group)] ?? "";

/** What so many specimens of each detect, test by test; shares of the mean. */
export function powerRows(power: Schemas["PowerView"]): Cell[][] {
  return [
    ["test", "specimens_of_each", "batches_of_each", "difference_detected", "target_difference", "difference_that_matters", "scatter_within_batches", "scatter_seen_on", "batch_to_within", "planned"],
    ...power.rows.flatMap((r) => r.detectable.map((detected, i): Cell[] => [`${r.label}, ${r.orientation}`, i + 2, power.batches, detected, r.target, r.margin, r.cv, r.scatter_specimens, r.batch_ratio, r.replicates])),
  ];
}

/** The board: a line for every material and test. */
export function boardRows(study: Schemas["StudyView"], columns: readonly Schemas["EvidenceView"][], problems: readonly Schemas["ProblemView"][], doubts: readonly Schemas["DoubtView"][]): Cell[][] {
  return [
    ["test", "quantity", "unit", "material", "mark", "planned", "printed", "tested", "n", "mean", "mean_bound", "at_least", "at_most", "sd", "ci95_low", "ci95_high", "verdict", "notes", "problem", "in_doubt"],
    ...columns.flatMap((c) => {
      const { unit, factor, at } = shownUnit(c.unit);
      const shown = (v: number | null | undefined) => (v == null ? null : at(v));
      return c.cells.map((cell): Cell[] => {
        const arm = study.arms.find((a) => a.id === cell.arm_id);
        const g = cell.group;
        const word = cell.verdict?.word ?? (cell.arm_id === study.reference_arm_id ? "reference" : "");
        return [`${c.label}, ${c.orientation}`, c.quantity_label, unit, nameOf(arm), arm?.mark ?? "", cell.planned, cell.printed, cell.tested, g?.n ?? 0, shown(g?.mean), g ? boundWords(g) : "", g?.at_least ?? 0, g?.at_most ?? 0, g?.sd == null ? null : g.sd * factor, shown(g?.ci95?.[0]), shown(g?.ci95?.[1]), word, [...(cell.verdict?.notes ?? []), ...cell.notes].join("; "), cell.verdict ? problemsOf(problems, cell.arm_id).join("; ") : "", doubtWords(doubts, cell.arm_id, c.test_id)];
      });
    }),
  ];
}
