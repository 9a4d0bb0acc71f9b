import type { CurveData } from "../api/curves";
import { shownUnit } from "../ui/units";

/** The points of a curve in the units shown. */
export function shownCurve(curve: CurveData): CurveData {
  const [x, y] = [shownUnit(curve.x_unit), shownUnit(curve.y_unit)];
  if (x.unit === curve.x_unit && y.unit === curve.y_unit) return curve;
  return { ...curve, x_unit: x.unit, y_unit: y.unit, xy: curve.xy.map((v, i) => (i % 2 ? y.at(v) : x.at(v))) };
}
