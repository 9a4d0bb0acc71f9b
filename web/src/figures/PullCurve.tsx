import { useEffect, useRef, useState } from "react";

import type { CurveData } from "../api/curves";
import { fixed, tickLabel, ticks } from "../ui/format";
import { scale } from "./scale";

interface PullCurveProps {
  curve: CurveData;
  /** Strains in %; may be dragged if `onRange` is given. */
  range: readonly [number, number] | null;
  onRange?: (range: [number, number]) => void;
  height?: number;
  /** Width of the drawing in its own pixels; about what it is shown at, so that type keeps its size. @default 620 */
  width?: number;
}

const LEFT = 58;
const BOTTOM = 44;

/** One pull: curve, break, peak, yield, and the strain range of the modulus with ends that can be dragged. */
export function PullCurve({ curve, range: given, onRange, height = 280, width: WIDTH = 620 }: PullCurveProps) {
  const svg = useRef<SVGSVGElement>(null);
  const [close, setClose] = useState(false);
  const [dragged, setDragged] = useState<[number, number] | null>(null);
  const dragging = useRef<0 | 1 | null>(null);
  useEffect(() => setDragged(null), [given]);
  const held = dragged ?? given;
  const n = curve.points;
  let xMax = 0;
  let yMax = 0;
  for (let i = 0; i < n; i++) {
    xMax = Math.max(xMax, curve.xy[2 * i] ?? 0);
    yMax = Math.max(yMax, curve.xy[2 * i + 1] ?? 0);
  }
  if (close && held) {
    xMax = Math.min(xMax, held[1] * 2.2);
    yMax = 0;
    for (let i = 0; i < n; i++) if ((curve.xy[2 * i] ?? 0) <= xMax) yMax = Math.max(yMax, curve.xy[2 * i + 1] ?? 0);
  }
  const x = scale([0, xMax * 1.03 || 1], LEFT, WIDTH - 12);
  const y = scale([0, yMax * 1.08 || 1], height - BOTTOM, 10);
  let path = "";
  for (let i = 0; i < n; i++) path += `${i ? "L" : "M"}${x(curve.xy[2 * i] ?? 0).toFixed(1)} ${y(curve.xy[2 * i + 1] ?? 0).toFixed(1)}`;
  const xs = ticks(0, x.domain[1], 6);
  const ys = ticks(0, y.domain[1], 5);
  const peak = curve.marks["peak"];
  const end = curve.marks["break"];
  const yieldAt = curve.marks["yield"];
  const percent = curve.x_unit === "%" ? 100 : 1;

  const valueAt = (clientX: number) => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return 0;
    const px = ((clientX - box.left) / box.width) * WIDTH;
    return ((px - LEFT) / (WIDTH - 12 - LEFT)) * x.domain[1];
  };
  const moved = (side: 0 | 1, to: number): [number, number] | null => {
    if (!held) return null;
    const least = x.domain[1] / 400;
    return side === 0 ? [Math.min(Math.max(0, to), held[1] - least), held[1]] : [held[0], Math.max(to, held[0] + least)];
  };
  const handle = (side: 0 | 1) =>
    held &&
    onRange && (
      <g
        role="slider"
        tabIndex={0}
        aria-label={side === 0 ? "lower end of the strain range" : "upper end of the strain range"}
        aria-valuenow={Number(held[side].toFixed(3))}
        aria-valuemin={0}
        aria-valuemax={Number(x.domain[1].toFixed(3))}
        aria-valuetext={`${fixed(held[side], 3)} % strain`}
        style={{ cursor: "ew-resize", touchAction: "none" }}
        onPointerDown={(e) => {
          dragging.current = side;
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => {
          if (dragging.current !== side) return;
          setDragged(moved(side, valueAt(e.clientX)));
        }}
        onPointerUp={() => {
          dragging.current = null;
          if (dragged) onRange(dragged);
        }}
        onKeyDown={(e) => {
          const step = (e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0) * (e.shiftKey ? 0.05 : 0.01);
          const next = step ? moved(side, held[side] + step) : null;
          if (next) {
            e.preventDefault();
            setDragged(next);
          }
        }}
        onKeyUp={(e) => {
          if (dragged && (e.key === "ArrowRight" || e.key === "ArrowLeft")) onRange(dragged);
        }}
      >
        <rect x={x(held[side]) - 11} y={10} width="22" height={height - BOTTOM - 10} fill="transparent" />
        <line x1={x(held[side])} x2={x(held[side])} y1={10} y2={height - BOTTOM} stroke="var(--accent)" strokeWidth="2" />
        <circle cx={x(held[side])} cy={24} r="7" fill="var(--accent)" />
      </g>
    );
  return (
    <div>
      <svg ref={svg} viewBox={`0 0 ${WIDTH} ${height}`} style={{ width: "100%", display: "block" }} role="group" aria-label={`${curve.y_label} over ${curve.x_label}`} fontFamily="var(--sans)">
        <clipPath id={`clip-${curve.id}`}>
          <rect x={LEFT} y={0} width={WIDTH - LEFT} height={height - BOTTOM} />
        </clipPath>
        {ys.map((t) => (
          <g key={t}>
            <line x1={LEFT} x2={WIDTH - 12} y1={y(t)} y2={y(t)} stroke="var(--line)" strokeWidth="0.7" />
            <text x={LEFT - 7} y={y(t) + 4} textAnchor="end" fontSize="12" fontFamily="var(--mono)" fill="var(--soft)">
              {tickLabel(t, ys)}
            </text>
          </g>
        ))}
        {xs.map((t) => (
          <text key={t} x={x(t)} y={height - BOTTOM + 17} textAnchor="middle" fontSize="12" fontFamily="var(--mono)" fill="var(--soft)">
            {tickLabel(t, xs)}
          </text>
        ))}
        <line x1={LEFT} x2={WIDTH - 12} y1={height - BOTTOM} y2={height - BOTTOM} stroke="var(--ink)" />
        <text x={(LEFT + WIDTH) / 2} y={height - 8} textAnchor="middle" fontSize="13" fill="var(--soft)">
          {curve.x_label}, {curve.x_unit}
        </text>
        <text transform={`translate(14 ${(height - BOTTOM) / 2}) rotate(-90)`} textAnchor="middle" fontSize="13" fill="var(--soft)">
          {curve.y_label}, {curve.y_unit}
        </text>
        {held && <rect x={x(held[0])} y={10} width={Math.max(0, x(held[1]) - x(held[0]))} height={height - BOTTOM - 10} fill="var(--raised)" />}
        <path d={path} fill="none" stroke="var(--ink)" strokeWidth="1.8" clipPath={`url(#clip-${curve.id})`} />
        {!close && yieldAt && <path d={`M${x(yieldAt[0]! * percent)} ${y(yieldAt[1]!) - 7}v14`} stroke="var(--better)" strokeWidth="2.4" />}
        {!close && peak && <circle cx={x(peak[0]! * percent)} cy={y(peak[1]!)} r="4.5" fill="none" stroke="var(--better)" strokeWidth="2" />}
        {!close && end && (
          <path d={`M${x(end[0]! * percent) - 5} ${y(end[1]!) - 5}l10 10m0 -10l-10 10`} stroke="var(--worse)" strokeWidth="2.4" />
        )}
        {handle(0)}
        {handle(1)}
      </svg>
      <div style={{ display: "flex", gap: 16, fontSize: "0.8rem" }} className="soft">
        {curve.marks["peak"] && (
          <span>
            <span style={{ color: "var(--better)" }}>○</span> strength
          </span>
        )}
        {end && (
          <span>
            <span style={{ color: "var(--worse)" }}>×</span> break
          </span>
        )}
        {yieldAt && (
          <span>
            <span style={{ color: "var(--better)" }}>|</span> yield
          </span>
        )}
        {held && (
          <>
            <span>
              strain range of the modulus {fixed(held[0], 3)} … {fixed(held[1], 3)} % strain
            </span>
            <button type="button" onClick={() => setClose(!close)} style={{ all: "unset", cursor: "pointer", color: "var(--accent)", textDecoration: "underline" }}>
              {close ? "whole curve" : "closer on it"}
            </button>
          </>
        )}
      </div>
    </div>
  );
}
