import { Dimension, type DrawingProps } from "./Drawing";
import { H, MID, W } from "./geometry";
import { size } from "./sizes";

const SIZE = 250;

/** Indents far from one another and from the edges: four corners, then the middle. */
const CORNERS = [
  [-1, -1],
  [1, -1],
  [1, 1],
  [-1, 1],
  [0, 0],
] as const;

/** A flat block seen from above, with places for indents. */
export function Block({ shape, marks = 0, dimensioned = false }: DrawingProps) {
  const d = shape.dimensions;
  const scale = SIZE / Math.max(d["overall"] ?? 40, d["width"] ?? 40);
  const w = (d["overall"] ?? 40) * scale;
  const h = (d["width"] ?? 40) * scale;
  const [x, y] = [W / 2 - w / 2, MID - h / 2];
  const edge = 9 * scale;
  return (
    <>
      <rect x={x} y={y} width={w} height={h} rx="4" fill="var(--surface)" stroke="var(--ink)" strokeWidth="2" data-testid="outline" />
      {Math.min(w, h) > 2 * edge && <rect x={x + edge} y={y + edge} width={w - 2 * edge} height={h - 2 * edge} fill="none" stroke="var(--line)" strokeDasharray="5 5" />}
      {CORNERS.slice(0, marks).map(([dx, dy], i) => (
        <g key={i} transform={`translate(${W / 2 + dx * (w / 2 - edge)} ${MID + dy * (h / 2 - edge)})`}>
          <circle r="4" fill="var(--ink)" />
          <text x="10" y="6" fontSize="16" fill="var(--soft)">
            {i + 1}
          </text>
        </g>
      ))}
      {dimensioned && (
        <>
          <Dimension x1={x} x2={x + w} y={H - 14} text={size(d["overall"])} />
          <Dimension x1={y} x2={y + h} y={x + w + 26} upright text={`${size(d["width"])}, ${size(d["thickness"])} thick`} />
        </>
      )}
    </>
  );
}
