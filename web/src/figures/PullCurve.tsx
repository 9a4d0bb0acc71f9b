import { useEffect, useRef, useState } from "react";

import type { CurveData } from "../api/curves";
import { fixed, tickLabel, ticks } from "../ui/format";
import { type Scale, scale } from "./scale";
import { shownUnit } from "../ui/units";

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
export function PullCurve({ curve, range: given, onRange, height = 280, width = 620 }: PullCurveProps) {
  const svg = useRef<SVGSVGElement>(null);
  const [close, setClose] = useState(false);
  const [dragged, setDragged] = useState<[number, number] | null>(null);
  useEffect(() => setDragged(null), [given]);
  const held = dragged ?? given;
  const [xMax, yMax] = extent(curve, close && held ? held[1] * 2.2 : Infinity);
  const x = scale([0, xMax * 1.03 || 1], LEFT, width - 12);
  const y = scale([0, yMax * 1.08 || 1], height - BOTTOM, 10);
  let path = "";
  for (let i = 0; i < curve.points; i++) path += `${i ? "L" : "M"}${x(curve.xy[2 * i] ?? 0).toFixed(1)} ${y(curve.xy[2 * i + 1] ?? 0).toFixed(1)}`;
  const valueAt = (clientX: number) => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return 0;
    const px = ((clientX - box.left) / box.width) * width;
    return ((px - LEFT) / (width - 12 - LEFT)) * x.domain[1];
  };
  return (
    <div>
      <svg ref={svg} viewBox={`0 0 ${width} ${height}`} style={{ width: "100%", display: "block" }} role="group" aria-label={`${curve.y_label} over ${curve.x_label}`} fontFamily="var(--sans)">
        <clipPath id={`clip-${curve.id}`}>
          <rect x={LEFT} y={0} width={width - LEFT} height={height - BOTTOM} />
        </clipPath>
        <Axes curve={curve} x={x} y={y} width={width} height={height} />
        {held && <rect x={x(held[0])} y={10} width={Math.max(0, x(held[1]) - x(held[0]))} height={height - BOTTOM - 10} fill="var(--raised)" />}
        <path d={path} fill="none" stroke="var(--ink)" strokeWidth="1.8" clipPath={`url(#clip-${curve.id})`} />
        {!close && <Marks curve={curve} x={x} y={y} />}
        {held && onRange && ([0, 1] as const).map((side) => <Handle key={side} side={side} held={held} x={x} height={height} valueAt={valueAt} onDrag={setDragged} onDrop={() => dragged && onRange(dragged)} />)}
      </svg>
      <Key curve={curve} held={held} close={close} onClose={() => setClose(!close)} />
    </div>
  );
}

/** The greatest strain and stress up to a strain. */
function extent(curve: CurveData, upTo: number): [number, number] {
  let xMax = 0;
  let yMax = 0;
  for (let i = 0; i < curve.points; i++) {
    const at = curve.xy[2 * i] ?? 0;
    xMax = Math.max(xMax, at);
    if (at <= upTo) yMax = Math.max(yMax, curve.xy[2 * i + 1] ?? 0);
  }
  return [Math.min(xMax, upTo), yMax];
}

function Axes({ curve, x, y, width, height }: { curve: CurveData; x: Scale; y: Scale; width: number; height: number }) {
  const [alongX, upY] = [shownUnit(curve.x_unit), shownUnit(curve.y_unit)];
  const xs = ticks(0, alongX.at(x.domain[1]), 6);
  const ys = ticks(0, upY.at(y.domain[1]), 5);
  return (
    <>
      {ys.map((t) => (
        <g key={t}>
          <line x1={LEFT} x2={width - 12} y1={y(upY.back(t))} y2={y(upY.back(t))} stroke="var(--line)" strokeWidth="0.7" />
          <text x={LEFT - 7} y={y(upY.back(t)) + 4} textAnchor="end" fontSize="12" fontFamily="var(--mono)" fill="var(--soft)">
            {tickLabel(t, ys)}
          </text>
        </g>
      ))}
      {xs.map((t) => (
        <text key={t} x={x(alongX.back(t))} y={height - BOTTOM + 17} textAnchor="middle" fontSize="12" fontFamily="var(--mono)" fill="var(--soft)">
          {tickLabel(t, xs)}
        </text>
      ))}
      <line x1={LEFT} x2={width - 12} y1={height - BOTTOM} y2={height - BOTTOM} stroke="var(--ink)" />
      <text x={(LEFT + width) / 2} y={height - 8} textAnchor="middle" fontSize="13" fill="var(--soft)">
        {curve.x_label}, {alongX.unit}
      </text>
      <text transform={`translate(14 ${(height - BOTTOM) / 2}) rotate(-90)`} textAnchor="middle" fontSize="13" fill="var(--soft)">
        {curve.y_label}, {upY.unit}
      </text>
    </>
  );
}

/** Yield, peak and break, where the reduction found them. */
function Marks({ curve, x, y }: { curve: CurveData; x: Scale; y: Scale }) {
  const percent = curve.x_unit === "%" ? 100 : 1;
  const at = (name: string): [number, number] | null => {
    const [strain, stress] = curve.marks[name] ?? [];
    return strain === undefined || stress === undefined ? null : [x(strain * percent), y(stress)];
  };
  const [yieldAt, peak, end] = [at("yield"), at("peak"), at("break")];
  return (
    <>
      {yieldAt && <path d={`M${yieldAt[0]} ${yieldAt[1] - 7}v14`} stroke="var(--better)" strokeWidth="2.4" />}
      {peak && <circle cx={peak[0]} cy={peak[1]} r="4.5" fill="none" stroke="var(--better)" strokeWidth="2" />}
      {end && <path d={`M${end[0] - 5} ${end[1] - 5}l10 10m0 -10l-10 10`} stroke="var(--worse)" strokeWidth="2.4" />}
    </>
  );
}

interface HandleProps {
  side: 0 | 1;
  /** The strain range, %. */
  held: readonly [number, number];
  x: Scale;
  height: number;
  /** The strain under the pointer. */
  valueAt: (clientX: number) => number;
  onDrag: (range: [number, number]) => void;
  onDrop: () => void;
}

/** One end of the strain range: dragged, or moved by the arrow keys, faster with Shift. */
function Handle({ side, held, x, height, valueAt, onDrag, onDrop }: HandleProps) {
  const dragging = useRef(false);
  const move = (to: number) => {
    const least = x.domain[1] / 400;
    onDrag(side === 0 ? [Math.min(Math.max(0, to), held[1] - least), held[1]] : [held[0], Math.max(to, held[0] + least)]);
  };
  const direction = (key: string) => (key === "ArrowRight" ? 1 : key === "ArrowLeft" ? -1 : 0);
  return (
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
        dragging.current = true;
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => dragging.current && move(valueAt(e.clientX))}
      onPointerUp={() => {
        dragging.current = false;
        onDrop();
      }}
      onKeyDown={(e) => {
        if (!direction(e.key)) return;
        e.preventDefault();
        move(held[side] + direction(e.key) * (e.shiftKey ? 0.05 : 0.01));
      }}
      onKeyUp={(e) => direction(e.key) && onDrop()}
    >
      <rect x={x(held[side]) - 11} y={10} width="22" height={height - BOTTOM - 10} fill="transparent" />
      <line x1={x(held[side])} x2={x(held[side])} y1={10} y2={height - BOTTOM} stroke="var(--accent)" strokeWidth="2" />
      <circle cx={x(held[side])} cy={24} r="7" fill="var(--accent)" />
    </g>
  );
}

/** What the marks mean, and the strain range in figures. */
function Key({ curve, held, close, onClose }: { curve: CurveData; held: readonly [number, number] | null; close: boolean; onClose: () => void }) {
  const marks = [
    ["peak", "○", "var(--better)", "strength"],
    ["break", "×", "var(--worse)", "break"],
    ["yield", "|", "var(--better)", "yield"],
  ] as const;
  return (
    <div style={{ display: "flex", gap: 16, fontSize: "0.8rem" }} className="soft">
      {marks
        .filter(([name]) => curve.marks[name])
        .map(([name, sign, colour, words]) => (
          <span key={name}>
            <span style={{ color: colour }}>{sign}</span> {words}
          </span>
        ))}
      {held && (
        <>
          <span>
            strain range of the modulus {fixed(held[0], 3)} … {fixed(held[1], 3)} % strain
          </span>
          <button type="button" onClick={onClose} style={{ all: "unset", cursor: "pointer", color: "var(--accent)", textDecoration: "underline" }}>
            {close ? "whole curve" : "closer on it"}
          </button>
        </>
      )}
    </div>
  );
}
