import { useQuery } from "@tanstack/react-query";

import { partOptions } from "../../api/queries/parts";
import { shapeSheetOptions } from "../../api/queries/printing";
import { Dimension, type DrawingProps } from "./Drawing";
import { H, W } from "./geometry";
import { type Loops, pathOf, sideBySide, spanOf } from "./outlines";
import { size } from "./sizes";

/** Under a cropped drawing stand the fields; beside a dimensioned one its lengths. */
const roomIn = (crop: number, dimensioned: boolean) => ({ x: dimensioned ? 40 : 250, y: (H - H * crop) / 2 + 34, w: W - (dimensioned ? 160 : 320), h: H * crop - (dimensioned ? 98 : 46) });

/** Places listed one below the other before another column is begun. */
const ROWS = 3;

/** A shape by its true outlines, from above and beside it from the front; a part of one's own with its places. */
export function Outline({ shape, dimensioned = false, crop = 1 }: DrawingProps) {
  const own = shape.family === "part";
  const sheet = useQuery({ ...shapeSheetOptions(shape.name, []), enabled: !own });
  const part = useQuery({ ...partOptions(shape.name), enabled: own });
  const [top, front]: [Loops, Loops] = own ? [part.data?.views.top ?? [], part.data?.views.front ?? []] : [sheet.data?.top ?? [], sheet.data?.side ?? []];
  if (!top.length || !front.length) return null;
  const laid = sideBySide(top, front, roomIn(crop, dimensioned), 150);
  const marks = (part.data?.places ?? []).map((p, i) => ({ ...p, number: i + 1 }));
  const low = spanOf(front);
  const legend = laid.second.at(low.u[0], low.v[0]);
  return (
    <>
      {[laid.first, laid.second].map((view, i) => {
        const seen = i ? "front" : "top";
        const loops = i ? front : top;
        const span = spanOf(loops);
        const [x0, x1] = [view.at(span.u[0], 0).x, view.at(span.u[1], 0).x];
        const [y0, y1] = [view.at(0, span.v[1]).y, view.at(0, span.v[0]).y];
        return (
          <g key={seen}>
            <path d={pathOf(loops, view.at)} fill="var(--surface)" stroke="var(--ink)" strokeWidth="2" fillRule="evenodd" data-testid="outline" />
            <text x={x0} y={y0 - 12} fontSize="17" fill="var(--soft)">
              {i ? "from the front" : "from above"}
            </text>
            {marks
              .filter((m) => m.view === seen)
              .map((m) => {
                const { x, y } = view.at(m.u, m.v);
                return (
                  <g key={m.id} transform={`translate(${x} ${y})`}>
                    <circle r="13" fill="var(--surface)" stroke="var(--accent)" strokeWidth="2" />
                    <text y="6" textAnchor="middle" fontSize="17" fill="var(--ink)">
                      {m.number}
                    </text>
                  </g>
                );
              })}
            {dimensioned && (
              <>
                <Dimension x1={x0} x2={x1} y={y1 + 34} text={size(span.u[1] - span.u[0])} />
                <Dimension x1={y0} x2={y1} y={x1 + 18} upright text={size(span.v[1] - span.v[0])} />
              </>
            )}
          </g>
        );
      })}
      {marks.map((m, i) => (
        <text key={m.id} x={legend.x + 190 * Math.floor(i / ROWS)} y={legend.y + 32 + 21 * (i % ROWS)} fontSize="17" fill="var(--soft)">
          {m.number} {m.label}
          {m.nominal !== null && `, ${size(m.nominal)}`}
          {m.view === "side" && " (at the side)"}
        </text>
      ))}
    </>
  );
}
