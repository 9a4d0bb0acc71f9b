import type { Schemas } from "../../api/client";
import type { CurveData } from "../../api/curves";
import type { Cell } from "../../figures/download";
import { doubtWords } from "../../ui/doubts";
import { problemsOf } from "../../ui/Problems";
import { shownQuantity } from "../../ui/units";
import { boundWords, nameOf } from "../studies/tables";

type Findings = Schemas["Findings"];

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
  const reference = findings.arms.find((a) => a.arm.id === findings.reference_arm_id)?.name ?? "";
  const at = (v: number | null | undefined) => (v == null ? null : ratio ? Math.exp(v) : v * factor);
  return [
    ["test", "quantity", "unit", "material", "mark", "n", "mean", "mean_bound", "ci95_low", "ci95_high", "at_least", "at_most", "difference", "difference_ci95_low", "difference_ci95_high", "factor", "factor_ci95_low", "factor_ci95_high", "against", "margin", "verdict", "more_specimens", "batches", "sd_within_batches", "new_batch_ci95_low", "new_batch_ci95_high", "notes", "problem"],
    ...findings.arms.map((a): Cell[] => {
      const [group, verdict] = [a.group, a.verdict];
      const mean = a.ratio ? a.ratio.ratio : group ? shown(group.mean) : null;
      const ci = a.ratio ? a.ratio.ci95 : group?.ci95 ? group.ci95.map(shown) : null;
      return [
        findings.test.label, findings.quantity.label, unit, nameOf(a.arm), a.arm.mark, group?.n ?? null, mean, group && !a.ratio ? boundWords(group) : "", ci?.[0] ?? null, ci?.[1] ?? null, group?.at_least ?? null, group?.at_most ?? null,
        at(verdict?.difference), at(verdict?.ci95?.[0]), at(verdict?.ci95?.[1]), a.relative?.factor ?? null, a.relative?.ci95?.[0] ?? null, a.relative?.ci95?.[1] ?? null, verdict ? reference : "", at(verdict?.margin), verdict?.word ?? (a.arm.id === findings.reference_arm_id ? "reference" : ""), verdict?.more_specimens ?? null,
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

/** Every specimen with its value, as it is shown. */
export function specimenRows(findings: Schemas["Findings"], doubts: readonly Schemas["DoubtView"][] = []): Cell[][] {
  const shown = shownQuantity(findings.quantity);
  return [
    ["material", "mark", "specimen", "value", "unit", "bound", "state", "reason", "in_doubt"],
    ...findings.arms.flatMap((a) => a.dots.map((d) => [`${a.arm.material.maker} ${a.arm.material.product}`, a.arm.mark, d.code, d.value === null ? null : shown.at(d.value), shown.unit, d.bound, d.state, d.reason, doubtWords(doubts, a.arm.id, findings.test.id)])),
    ...findings.earlier.flatMap((e) => {
      const from = [e.source, e.on, ...e.differs].filter(Boolean).join(", ");
      return (e.reported ? [e.mean] : e.values).map((v): Cell[] => [`${e.material.maker} ${e.material.product}`, e.material.mark, "", shown.at(v), shown.unit, "", e.reported ? "reported" : "other study", from, ""]);
    }),
  ];
}
