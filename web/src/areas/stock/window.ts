import type { Schemas } from "../../api/client";
import type { Cell } from "../../figures/download";
import { shownUnit } from "../../ui/units";

const UNITS: readonly [RegExp, string][] = [
  [/^(nozzle|bed|chamber)_(low|high)$|^dry_(temperature|limit)$/, "°C"],
  [/^speed_/, "mm/s"],
  [/^flow_/, "mm³/s"],
  [/^(nozzle_min|tolerance)$/, "mm"],
  [/^dry_time$/, "h"],
];

/** What the maker asks for as a table, in the units shown. */
export function windowRows(window: Schemas["WindowView"]): Cell[][] {
  return [
    ["of", "value", "unit"],
    ...Object.entries(window).map(([name, value]): Cell[] => {
      const unit = UNITS.find(([of]) => of.test(name))?.[1];
      if (unit === undefined || typeof value !== "number") return [name, typeof value === "boolean" ? String(value) : value, ""];
      return [name, shownUnit(unit).at(value), shownUnit(unit).unit];
    }),
  ];
}
