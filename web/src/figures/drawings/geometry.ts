import type { Schemas } from "../../api/client";

export const W = 1100;
export const H = 372;
export const MID = H / 2;
export const LEFT = 60;
export const RIGHT = W - 60;

/** Where entries sit on a drawing, in its own pixels. */
export interface Geometry {
  /** Where the calliper goes: up to three places along the specimen. */
  columns: readonly number[];
  /** The edges of what is measured, above and below the middle. */
  half: number;
  tag: { left: number; width: number };
  side: { left: number; width: number };
  /** Where the specimen begins and ends. */
  ends: { left: number; right: number };
  /** Of a specimen that is not drawn to scale along its length: x on the drawing, and the share of the length that stands there. */
  stretched?: readonly (readonly [x: number, share: number])[];
}

/** The share of a specimen's length at which an x of its drawing lies: 0 left to 1 right. */
export const shareAt = (g: Geometry, x: number): number => between(pointsOf(g), x);

/** The x of a drawing at which a share of the specimen's length lies. */
export const xAt = (g: Geometry, share: number): number => between(pointsOf(g).map(([x, s]) => [s, x] as const), share);

const pointsOf = (g: Geometry) => g.stretched ?? [[g.ends.left, 0] as const, [g.ends.right, 1] as const];

/** Linear between points that rise; the first and the last value beyond them. */
function between(points: readonly (readonly [number, number])[], at: number): number {
  const i = points.findIndex(([x]) => x >= at);
  const [high, low] = [points[i], points[i - 1]];
  if (high === undefined) return points.at(-1)?.[1] ?? 0;
  return low === undefined ? high[1] : low[1] + ((at - low[0]) / (high[0] - low[0])) * (high[1] - low[1]);
}

type Shape = Schemas["ShapeView"];

export interface PullBarGeometry extends Geometry {
  g0: number;
  g1: number;
  s0: number;
  s1: number;
  end: number;
}

/** To scale, but the parallel part is never drawn too short for its fields: a place on it is then stretched with it. */
export function pullBar(shape: Shape): PullBarGeometry {
  const d = shape.dimensions;
  const length = RIGHT - LEFT;
  const gauge = Math.min(560, Math.max(400, ((d["parallel"] ?? 1) / (d["overall"] ?? 1)) * length));
  const shoulder = (length - gauge) * 0.16;
  const half = Math.min(48, Math.max(34, ((d["width"] ?? 1) / (d["end_width"] ?? 1)) * 88));
  const [g0, g1] = [W / 2 - gauge / 2, W / 2 + gauge / 2];
  const [s0, s1] = [g0 - shoulder, g1 + shoulder];
  const outside = (1 - (d["parallel"] ?? 1) / (d["overall"] ?? 1)) / 2;
  return {
    g0, g1, s0, s1, half, end: 86,
    columns: [0.18, 0.5, 0.82].map((t) => g0 + t * (g1 - g0)),
    tag: { left: LEFT + 14, width: s0 - LEFT - 28 },
    side: { left: s1 + 12, width: RIGHT - s1 - 26 },
    ends: { left: LEFT, right: RIGHT },
    stretched: [[LEFT, 0], [g0, outside], [g1, 1 - outside], [RIGHT, 1]],
  };
}

/** A plain bar, with room at its right for the load. */
export function bar(): Geometry {
  const [left, right] = [LEFT, W - 300];
  return {
    columns: [0.3, 0.5, 0.7].map((t) => left + t * (right - left) + 40),
    half: 44,
    tag: { left: left + 10, width: 160 },
    side: { left: right + 36, width: 240 },
    ends: { left, right },
  };
}

export function geometryOf(shape: Shape): Geometry {
  return shape.family === "pull bar" ? pullBar(shape) : bar();
}
