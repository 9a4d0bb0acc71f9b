import type { Schemas } from "../../api/client";
import type { Cell } from "../../figures/download";
import { shownQuantity } from "../../ui/units";

/** The ranking: of each material its ranks, and of each criterion its value, its bound, its weight and what must be reached. */
export function rankingRows(purpose: Schemas["PurposeView"], ranking: Schemas["Ranking"], anyOpen: boolean): Cell[][] {
  const total = Object.values(ranking.weights).reduce((sum, w) => sum + w, 0);
  const shares = ranking.ranked.map((_, i) => `${anyOpen ? "not distinguishable from" : "probability of"} rank ${String(i + 1)}`);
  const heads = purpose.criteria.flatMap((c) => {
    const name = `${c.label} ${c.orientation}`;
    return [[name, shownQuantity(c).unit].filter(Boolean).join(", "), `${name}: bound`, `${name}: weight, %`, `${name}: required`, `${name}: requirement`];
  });
  return [
    ["rank", "material", "mark", "score low", "score high", "score ci90 low", "score ci90 high", "coverage", "bounds treated as exact", "notes", "problem", ...shares, ...heads],
    ...ranking.ranked.map((r): Cell[] => {
      const arm = purpose.arms.find((a) => a.id === r.arm_id);
      const values = purpose.criteria.flatMap((c): Cell[] => {
        const shown = shownQuantity(c);
        const estimate = r.estimates[c.id];
        const weight = total > 0 ? (100 * (ranking.weights[c.id] ?? 0)) / total : null;
        return [estimate == null ? null : shown.at(estimate), (r.bounds[c.id] ?? "").replace("_", " "), weight, c.required === null ? null : shown.at(c.required), c.required === null ? "" : (r.requirements[c.id] ?? "")];
      });
      return [r.rank, `${arm?.material.maker ?? ""} ${arm?.material.product ?? ""}`, arm?.mark ?? "", r.score_low, r.score_high, r.score_ci90[0], r.score_ci90[1], r.coverage, ranking.bounds_exact ? "yes" : "no", r.notes.join("; "), ranking.problems.join("; "), ...ranking.ranked.map((_, i) => r.rank_probabilities[i] ?? null), ...values];
    }),
  ];
}
