import type { Schemas } from "../../api/client";
import type { Cell } from "../../figures/download";
import { fixed } from "../../ui/format";
import { shownQuantity } from "../../ui/units";

type Effect = Schemas["FactorEffect"];

/** What an effect is called, and what is to be said of it. */
export function effectWords(e: Effect): { name: string; said: string } {
  const [level, against] = [e.levels[0] ?? "", e.against[0] ?? ""];
  const name = e.factors.length === 1 ? `${level} against ${against}` : `${e.factors.join(" × ")}: ${e.levels.join(", ")}`;
  const kind = e.factors.length === 1 ? "main effect" : e.stands_out ? "they act together" : "no interaction shown";
  const parts = [kind, e.stands_out && e.factors.length === 1 ? "clear of 0" : "", e.stands_out && !e.matters ? "smaller than matters" : "", e.aliases.length ? `shared with ${e.aliases.join(", ")}` : ""];
  return { name, said: parts.filter(Boolean).join(", ") };
}

/** A sweep in sentences; `width` words a difference of the response. */
export function sweepWords(s: Schemas["SweepView"], width: (value: number) => string): string[] {
  const at = (x: number) => `${String(Number(x.toPrecision(4)))} ${s.unit}`.trim();
  const inside = s.levels.filter((l) => l.in_window).map((l) => l.x);
  const shapes = Object.entries(s.lack_of_fit);
  const sentences = [`${at(s.best_level)} is the best level.`];
  if (inside.length > 1) sentences.push(`From ${at(Math.min(...inside))} to ${at(Math.max(...inside))} (shaded) no more than ${width(s.margin)} is lost, which does not matter.`);
  else sentences.push(`Of no other level is it shown that less than matters (${width(s.margin)}) is lost.`);
  if (s.chosen !== null) {
    sentences.push(`The response is drawn as a ${s.chosen === "straight" ? "straight line" : s.chosen} (lack of fit, p ${pWords(s.lack_of_fit[s.chosen] ?? 1)}).`);
    if (s.optimum !== null) sentences.push(`It turns at ${at(s.optimum)}${s.optimum_ci95 ? ` [${at(s.optimum_ci95[0])} … ${at(s.optimum_ci95[1])}]` : ""}: print that as a trial before relying on it.`);
  } else if (shapes.length) sentences.push(`No simple shape fits (lack of fit, p ${pWords(Math.max(...shapes.map(([, p]) => p)))} at best): the response is lop-sided or jumps, so the result rests on the levels.`);
  return sentences;
}

const pWords = (p: number) => (p < 0.001 ? "< 0.001" : fixed(p, p < 0.1 ? 3 : 2));

/** The effects as a table. */
export function effectRows(view: Schemas["FactorsView"]): Cell[][] {
  const { unit, factor } = shownQuantity(view.quantity);
  return [
    ["quantity", "unit", "factors", "levels", "against", "difference", "ci95_low", "ci95_high", "p", "stands_out"],
    ...view.effects.map((e): Cell[] => [view.quantity.label, unit, e.factors.join(" × "), e.levels.join(", "), e.against.join(", "), e.difference * factor, e.ci95 ? e.ci95[0] * factor : null, e.ci95 ? e.ci95[1] * factor : null, e.p, e.stands_out ? "yes" : "no"]),
  ];
}
