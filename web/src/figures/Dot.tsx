import type { Schemas } from "../api/client";

type DotData = Pick<Schemas["DotView"], "bound" | "state">;

/** One specimen: filled if it counts, hollow if left out, a diamond if from another rig, an arrow for a bound. */
export function Dot({ dot, x, y, r, colour }: { dot: DotData; x: number; y: number; r: number; colour: string }) {
  const arrow = dot.bound === "at_least" ? 1 : dot.bound === "at_most" ? -1 : 0;
  return (
    <g>
      {dot.state === "apart" ? (
        <path d={`M${x} ${y - r * 1.35}L${x + r * 1.35} ${y}L${x} ${y + r * 1.35}L${x - r * 1.35} ${y}Z`} fill="none" stroke={colour} strokeWidth={Math.max(1, r * 0.35)} />
      ) : (
        <circle
          cx={x}
          cy={y}
          r={r}
          fill={dot.state === "left_out" ? "var(--surface)" : colour}
          fillOpacity={dot.state === "left_out" ? 1 : 0.5}
          stroke={colour}
          strokeWidth={dot.state === "left_out" ? Math.max(1, r * 0.4) : 0.6}
        />
      )}
      {arrow !== 0 && (
        <path
          d={`M${x + arrow * r} ${y}h${arrow * r * 2.6}m${-arrow * r} ${-r}l${arrow * r} ${r}l${-arrow * r} ${r}`}
          stroke={colour}
          strokeWidth={Math.max(1.1, r * 0.4)}
          fill="none"
        />
      )}
    </g>
  );
}
