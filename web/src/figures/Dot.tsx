import type { Schemas } from "../api/client";

type DotData = Pick<Schemas["DotView"], "bound" | "state">;

/** One specimen: filled if it counts, hollow if left out, dashed while readings are to come, a diamond if from another rig, an arrow for a bound. */
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
          fill={dot.state === "left_out" || dot.state === "open" ? "var(--surface)" : colour}
          fillOpacity={dot.state === "left_out" || dot.state === "open" ? 1 : 0.5}
          stroke={colour}
          strokeWidth={dot.state === "left_out" || dot.state === "open" ? Math.max(1, r * 0.4) : 0.6}
          {...(dot.state === "open" ? { strokeDasharray: "2 2" } : {})}
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

/** An arrow at a mean that some bounds went into: the true one lies further that way. */
export function MeanArrow({ group, x, y, r, colour }: { group: Schemas["GroupView"]; x: number; y: number; r: number; colour: string }) {
  const way = group.at_least && !group.at_most ? 1 : group.at_most && !group.at_least ? -1 : 0;
  if (way === 0) return null;
  return <path d={`M${x + way * r} ${y}h${way * r * 2.4}m${-way * r} ${-r * 0.8}l${way * r} ${r * 0.8}l${-way * r} ${r * 0.8}`} stroke={colour} strokeWidth={Math.max(1.4, r * 0.4)} fill="none" />;
}
