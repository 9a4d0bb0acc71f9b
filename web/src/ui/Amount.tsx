import { inShown } from "./format";
import { shownUnit } from "./units";

/** A value in the unit shown: its figure in the type of figures, its unit in that of words. */
export function Amount({ value, unit, decimals }: { value: number; unit: string; decimals: number }) {
  return (
    <>
      <span className="figure">{inShown(value, unit, decimals)}</span> {shownUnit(unit).unit}
    </>
  );
}
