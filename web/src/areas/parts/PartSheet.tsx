import type { Schemas } from "../../api/client";
import { pathOf, type Placed, spanOf, threeViews } from "../../figures/drawings/outlines";
import { size } from "../../figures/drawings/sizes";
import { readNumber } from "../../ui/number";
import css from "./parts.module.css";
import { type TypedPlace, type View, VIEWS } from "./places";

const W = 720;
const H = 520;
const ROOM = { x: 60, y: 40, w: W - 120, h: H - 90 };

interface PartSheetProps {
  part: Schemas["PartView"];
  places: readonly TypedPlace[];
  /** The place that is looked at. */
  chosen: string | null;
  onChoose: (id: string) => void;
  /** A touch on a view: where, in mm. */
  onTouch: (view: View, u: number, v: number) => void;
}

/** A part in its three views to one scale, with its places: touched where another one is to be. */
export function PartSheet({ part, places, chosen, onChoose, onTouch }: PartSheetProps) {
  const laid = threeViews(part.views, ROOM, 80);
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className={css.sheet} role="img" aria-label={`${part.name}: ${size(part.length)} × ${size(part.width)} × ${size(part.height)}, seen from above, the front and the side`}>
      {(["top", "front", "side"] as const).map((view) => (
        <OneView key={view} view={view} loops={part.views[view]} placed={laid[view]} onTouch={(u, v) => onTouch(view, u, v)} />
      ))}
      {places.map((p, i) => {
        const [u, v] = [readNumber(p.u), readNumber(p.v)];
        if (typeof u !== "number" || typeof v !== "number") return null;
        const { x, y } = laid[p.view].at(u, v);
        return (
          <g key={p.id} transform={`translate(${x} ${y})`} className={css.mark} data-kind={p.kind} data-chosen={p.id === chosen || undefined} onClick={() => onChoose(p.id)}>
            {p.kind === "load" ? <path d="M0 0v-26m-6 8l6 -10l6 10" transform="rotate(180)" fill="none" /> : null}
            <circle r="10" />
            <text y="4.5" textAnchor="middle">
              {i + 1}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

function OneView({ view, loops, placed, onTouch }: { view: View; loops: Schemas["PartViews"]["top"]; placed: Placed; onTouch: (u: number, v: number) => void }) {
  const span = spanOf(loops);
  const low = placed.at(span.u[0], span.v[0]);
  const high = placed.at(span.u[1], span.v[1]);
  const touch = (e: React.MouseEvent<SVGElement>) => {
    const svg = e.currentTarget.ownerSVGElement;
    const matrix = svg?.getScreenCTM();
    if (!svg || !matrix) return;
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix.inverse());
    const { u, v } = placed.under(p.x, p.y);
    onTouch(u, v);
  };
  return (
    <g>
      <rect x={low.x} y={high.y} width={high.x - low.x} height={low.y - high.y} fill="transparent" onClick={touch} className={css.touch} data-view={view} />
      <path d={pathOf(loops, placed.at)} fill="var(--raised)" stroke="var(--ink)" strokeWidth="1.4" fillRule="evenodd" pointerEvents="none" />
      <text x={low.x} y={high.y - 24} fontSize="13" fill="var(--soft)">
        {VIEWS[view]}
      </text>
      <g stroke="var(--soft)" strokeWidth="1" fill="none">
        <path d={`M${low.x} ${high.y - 8}v-8m0 4H${high.x}m0 -4v8`} />
        <path d={`M${high.x + 8} ${high.y}h8m-4 0V${low.y}m-4 0h8`} />
      </g>
      <text x={(low.x + high.x) / 2} y={high.y - 9} fontSize="13" fill="var(--ink)" textAnchor="middle" stroke="var(--surface)" strokeWidth="4" paintOrder="stroke">
        {size(span.u[1] - span.u[0])}
      </text>
      <text x={high.x + 20} y={(low.y + high.y) / 2 + 4} fontSize="13" fill="var(--ink)">
        {size(span.v[1] - span.v[0])}
      </text>
    </g>
  );
}
