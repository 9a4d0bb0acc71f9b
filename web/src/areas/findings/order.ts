import type { Schemas } from "../../api/client";
import type { ArmGroup } from "../../figures/DotInterval";
import { composition } from "../../ui/Swatch";

type FindingArm = Schemas["FindingArm"];

export const ORDERS = [
  { value: "value", label: "best first" },
  { value: "plan", label: "as planned" },
  { value: "line", label: "by product line" },
  { value: "polymer", label: "by polymer" },
  { value: "filler", label: "by filler" },
] as const;

const headingOf: Record<string, (arm: Schemas["ArmView"]) => string> = {
  line: (a) => `${a.material.maker} ${a.material.product}`,
  polymer: (a) => a.material.polymer,
  filler: (a) => (a.material.filler ? composition(a.material) : "unfilled"),
};

/** The arms as they are to be shown: the best first, or as planned, or grouped with the best first in each. */
export function ordered(arms: readonly FindingArm[], order: string, goodSide: string): ArmGroup[] {
  if (order === "plan") return [{ heading: "", arms: [...arms] }];
  const value = (a: FindingArm) => a.ratio?.ratio ?? a.group?.mean ?? null;
  const best = [...arms].sort((a, b) => {
    const [x, y] = [value(a), value(b)];
    if (x === null || y === null) return Number(x === null) - Number(y === null);
    return goodSide === "lower" ? x - y : y - x;
  });
  const heading = headingOf[order];
  if (!heading) return [{ heading: "", arms: best }];
  const groups = new Map<string, FindingArm[]>();
  for (const a of best) groups.set(heading(a.arm), [...(groups.get(heading(a.arm)) ?? []), a]);
  return [...groups].map(([name, own]) => ({ heading: name, arms: own }));
}
