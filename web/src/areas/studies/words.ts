import type { Schemas } from "../../api/client";
import { boundSign, decimalsFor, figure, fixed, inShown, interval, signed } from "../../ui/format";
import type { VerdictWord } from "../../ui/Verdict";
import { shownUnit } from "../../ui/units";

export function verdictOf(cell: { verdict: Schemas["VerdictView"] | null; group: Schemas["GroupView"] | null }, isReference: boolean): VerdictWord | null {
  if (!cell.group) return null;
  if (isReference) return "reference";
  return cell.verdict?.word ?? "no verdict";
}

/** "46.9 MPa (45.1 … 48.7), n 5" */
export function groupWords(group: Schemas["GroupView"], unit: string): string {
  const shown = shownUnit(unit);
  const ci = group.ci95 ? shown.ends(group.ci95) : null;
  return `${boundSign(group)}${figure(shown.at(group.mean), ci)} ${shown.unit}${ci ? ` (${interval(ci)})` : ""}, n ${group.n}${boundWords(group)}`;
}

/** "worse than Ts by 5.6 MPa" */
export function verdictWords(verdict: Schemas["VerdictView"], referenceMark: string, unit: string): string {
  const shown = shownUnit(unit);
  const ci: [number, number] | null = verdict.ci95 ? [verdict.ci95[0] * shown.factor, verdict.ci95[1] * shown.factor] : null;
  const size = fixed(Math.abs(verdict.difference) * shown.factor, decimalsFor(verdict.difference * shown.factor, ci));
  switch (verdict.word) {
    case "better":
    case "worse":
    case "higher":
    case "lower":
      return `${verdict.word} than ${referenceMark} by ${size} ${shown.unit}`;
    case "equivalent":
      return `equivalent to ${referenceMark}${verdict.margin ? ` within ${figure(verdict.margin * shown.factor)} ${shown.unit}` : ""}`;
    case "undecided":
      return `undecided against ${referenceMark}${verdict.more_specimens ? `: ${verdict.more_specimens} more of each would decide` : ""}`;
    case "no verdict":
      return "no verdict";
  }
}

export function differenceWords(verdict: Schemas["VerdictView"], factor: number): string {
  const ci: [number, number] | null = verdict.ci95 ? [verdict.ci95[0] * factor, verdict.ci95[1] * factor] : null;
  return signed(verdict.difference * factor, decimalsFor(verdict.difference * factor, ci));
}

/** ", 1 of 5 are lower bounds" */
export function boundWords(group: Schemas["GroupView"]): string {
  return [group.at_least ? `, ${group.at_least} of ${group.n} are lower bounds` : "", group.at_most ? `, ${group.at_most} of ${group.n} are upper bounds` : ""].join("");
}

/** What a spool gives of a part, in words. */
export function pieceWords(s: Schemas["PerSpool"]): string {
  const spool = `${inShown(s.net, "g", 0)} ${shownUnit("g").unit}`;
  const cost = s.cost === null ? "" : `, ${s.cost.toFixed(2)} ${s.currency} of filament each`;
  return s.pieces === 0 ? `more than a spool of ${spool}${cost}` : `${String(s.pieces)} ${s.pieces === 1 ? "piece" : "pieces"} from ${spool}${cost}`;
}
