import type { Schemas } from "../../api/client";
import { decimalsFor, figure, fixed, interval, shownUnit, signed } from "../../ui/format";
import type { VerdictWord } from "../../ui/Verdict";

export function verdictOf(cell: { decision: Schemas["VerdictView"] | null; group: Schemas["GroupView"] | null }, isReference: boolean): VerdictWord | null {
  if (!cell.group) return null;
  if (isReference) return "reference";
  return cell.decision?.verdict ?? "no verdict";
}

/** "46.9 MPa (45.1 … 48.7), n 5" */
export function groupWords(group: Schemas["GroupView"], unit: string): string {
  const shown = shownUnit(unit);
  const ci: [number, number] | null = group.ci95 ? [group.ci95[0] * shown.factor, group.ci95[1] * shown.factor] : null;
  return `${figure(group.mean * shown.factor, ci)} ${shown.unit}${ci ? ` (${interval(ci)})` : ""}, n ${group.n}`;
}

/** "worse than Ts by 5.6 MPa" */
export function decisionWords(decision: Schemas["VerdictView"], referenceMark: string, unit: string): string {
  const shown = shownUnit(unit);
  const ci: [number, number] | null = decision.ci95 ? [decision.ci95[0] * shown.factor, decision.ci95[1] * shown.factor] : null;
  const size = fixed(Math.abs(decision.difference) * shown.factor, decimalsFor(decision.difference * shown.factor, ci));
  switch (decision.verdict) {
    case "better":
    case "worse":
    case "higher":
    case "lower":
      return `${decision.verdict} than ${referenceMark} by ${size} ${shown.unit}`;
    case "equivalent":
      return `equivalent to ${referenceMark}${decision.margin ? ` within ${figure(decision.margin * shown.factor)} ${shown.unit}` : ""}`;
    case "undecided":
      return `undecided against ${referenceMark}${decision.more_specimens ? `: ${decision.more_specimens} more of each would decide` : ""}`;
    case "no verdict":
      return "no verdict";
  }
}

export function differenceWords(decision: Schemas["VerdictView"], factor: number): string {
  const ci: [number, number] | null = decision.ci95 ? [decision.ci95[0] * factor, decision.ci95[1] * factor] : null;
  return signed(decision.difference * factor, decimalsFor(decision.difference * factor, ci));
}
