import type { Scale } from "./scale";

interface IntervalProps {
  ci: readonly [number, number];
  at: Scale;
  y: number;
  colour: string;
  width: number;
}

/** An interval as a line; where it goes on beyond the axis, as that of two specimens does, it ends in a solid arrow: "at least" has an open one. */
export function Interval({ ci, at, y, colour, width }: IntervalProps) {
  const [low, high] = at.domain;
  const [cutLow, cutHigh] = [ci[0] < low, ci[1] > high];
  // one that lies wholly beyond is an arrow at the end
  const within = (value: number) => at(Math.max(low, Math.min(high, value)));
  const [x1, x2] = [within(ci[0]), within(ci[1])];
  const head = (x: number, way: 1 | -1) => <path d={`M${String(x - way * 8)} ${String(y - 5)}L${String(x)} ${String(y)}L${String(x - way * 8)} ${String(y + 5)}Z`} fill={colour} />;
  return (
    <g data-cut={cutLow || cutHigh || undefined}>
      <line x1={x1} x2={x2} y1={y} y2={y} stroke={colour} strokeWidth={width} strokeLinecap={cutLow || cutHigh ? "butt" : "round"} />
      {cutLow && head(x1, -1)}
      {cutHigh && head(x2, 1)}
    </g>
  );
}
