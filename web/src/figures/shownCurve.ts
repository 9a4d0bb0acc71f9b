import type { CurveData } from "../api/curves";
import { shownUnit } from "../ui/units";

type Point = [number, number];

/** What belongs to a curve besides its points, in the units shown. */
export interface CurveParts {
  /** All readings at each load, those of one load parted from the next by a gap. */
  readings: Point[];
  /** The law fitted to single readings, from the first to the horizon. */
  law: Point[];
  /** The part of the curve that the modulus is fitted to. */
  range: Point[];
  /** Where it broke. */
  end: Point | null;
}

export type ShownCurve = CurveData & { parts: CurveParts };

const HOURS_A_DAY = 24;
const ALONG_LAW = 40;
const GAP: Point = [NaN, NaN];

/** A curve and what belongs to it in the units shown. */
export function shownCurve(curve: CurveData): ShownCurve {
  const [x, y] = [shownUnit(curve.x_unit), shownUnit(curve.y_unit)];
  const xy = x.unit === curve.x_unit && y.unit === curve.y_unit ? curve.xy : curve.xy.map((v, i) => (i % 2 ? y.at(v) : x.at(v)));
  // strains are sent in %, their marks as they are computed
  const percent = curve.x_unit === "%" ? 100 : 1;
  const at = (a: number, b: number): Point => [x.at(percent * a), y.at(b)];
  return { ...curve, x_unit: x.unit, y_unit: y.unit, xy, parts: { readings: readings(curve, at), law: law(curve, at), range: range(curve, at), end: end(curve, at) } };
}

type At = (x: number, y: number) => Point;

function readings(curve: CurveData, at: At): Point[] {
  return Object.entries(curve.marks).flatMap(([name, flat]) => {
    if (!name.startsWith("readings@")) return [];
    const load = Number(name.slice("readings@".length));
    return [...flat.flatMap((value, i) => (i % 2 ? [] : [at(value, load)])), GAP];
  });
}

/** d0 + A·tⁿ with t in days, drawn evenly along the logarithm of time. */
function law(curve: CurveData, at: At): Point[] {
  const [d0, a, n] = curve.marks["findley"] ?? [];
  const times = Array.from({ length: curve.points }, (_, i) => curve.xy[2 * i] ?? 0).filter((t) => t > 0);
  const last = Math.max(times.at(-1) ?? 0, curve.marks["horizon"]?.[0] ?? 0);
  const first = times[0];
  if (d0 === undefined || a === undefined || n === undefined || first === undefined || last <= first) return [];
  return Array.from({ length: ALONG_LAW + 1 }, (_, i) => {
    const hours = first * (last / first) ** (i / ALONG_LAW);
    return at(hours, d0 + a * (hours / HOURS_A_DAY) ** n);
  });
}

function range(curve: CurveData, at: At): Point[] {
  const [low, high] = curve.marks["modulus_range"] ?? [];
  if (low === undefined || high === undefined) return [];
  const percent = curve.x_unit === "%" ? 100 : 1;
  return Array.from({ length: curve.points }, (_, i) => [(curve.xy[2 * i] ?? 0) / percent, curve.xy[2 * i + 1] ?? 0] as const).flatMap(([a, b]) => (a >= low && a <= high ? [at(a, b)] : []));
}

function end(curve: CurveData, at: At): Point | null {
  const [a, b] = curve.marks["break"] ?? [];
  return a === undefined || b === undefined ? null : at(a, b);
}
