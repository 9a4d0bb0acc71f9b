/** One curve as the server sends it: what it is, and its points as flat x, y pairs (what charts eat fastest). */
export interface CurveData {
  id: string;
  arm_id?: string;
  code?: string;
  validity?: string;
  x_label: string;
  x_unit: string;
  y_label: string;
  y_unit: string;
  marks: Record<string, number[]>;
  points: number;
  /** Better read over the logarithm of x. */
  log_x?: boolean;
  /** Single readings: drawn as points. */
  single_readings?: boolean;
  /** Whether a line goes from one to the next. */
  joined?: boolean;
  xy: Float64Array;
}

/** What the x of several curves is; all of their names where they are not one. */
export const xLabel = (curves: readonly Pick<CurveData, "x_label">[]): string => [...new Set(curves.map((c) => c.x_label))].join(" or ");

/** Reads the layout of `encode` in the server's services/curves.py: head length, JSON head, float32 columns. */
export function decodeCurves(buffer: ArrayBuffer): CurveData[] {
  const headLength = new DataView(buffer).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, headLength))) as { curves: Omit<CurveData, "xy">[] };
  let offset = 4 + headLength;
  return head.curves.map((curve) => {
    const x = new Float32Array(buffer, offset, curve.points);
    const y = new Float32Array(buffer, offset + 4 * curve.points, curve.points);
    offset += 8 * curve.points;
    const xy = new Float64Array(2 * curve.points);
    for (let i = 0; i < curve.points; i++) {
      xy[2 * i] = x[i] ?? NaN;
      xy[2 * i + 1] = y[i] ?? NaN;
    }
    return { ...curve, xy };
  });
}
