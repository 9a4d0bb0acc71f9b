import { SegmentedControl } from "@mantine/core";
import { useState } from "react";

import type { CurveData } from "../api/curves";
import { amount, difference, fixed, inShown, tickLabel, ticks } from "../ui/format";
import { scale } from "./scale";
import { shownUnit } from "../ui/units";

interface ReadingsCurveProps {
  curve: CurveData;
  height?: number;
  width?: number;
}

const [LEFT, RIGHT, BOTTOM, STRIP] = [58, 14, 44, 46];
const DECADES = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000];

/** Single readings of one run, with the law fitted to them, the horizon, and the room above them. */
export function ReadingsCurve({ curve, height = 300, width: WIDTH = 620 }: ReadingsCurveProps) {
  const [log, setLog] = useState(curve.log_x ?? false);
  const points = Array.from({ length: curve.points }, (_, i) => [curve.xy[2 * i] ?? 0, curve.xy[2 * i + 1] ?? 0] as const);
  const room = pairs(curve.marks["ambient"]);
  const horizon = curve.marks["horizon"]?.[0] ?? null;
  const top = room.length ? STRIP + 12 : 10;
  const drifted = Object.entries(curve.marks).flatMap(([name, flat]) => (name.startsWith("readings@") ? pairs(flat).map((p) => p[0]) : []));
  const xMax = Math.max(...points.map((p) => p[0]), ...drifted, horizon ?? 0) * 1.05 || 1;
  const xMin = log ? Math.min(...points.map((p) => p[0]).filter((v) => v > 0)) * 0.8 : 0;
  const along = log ? scale([Math.log10(xMin), Math.log10(xMax)], LEFT, WIDTH - RIGHT) : scale([0, xMax], LEFT, WIDTH - RIGHT);
  const x = (v: number) => along(log ? Math.log10(Math.max(v, xMin)) : v);
  const law = fitted(curve, log ? xMin : xMax / 200, Math.max(horizon ?? 0, points.at(-1)?.[0] ?? 0), log);
  const ys = [...points.map((p) => p[1]), ...law.map((p) => p[1]), 0];
  const y = scale([Math.min(...ys), Math.max(...ys) * 1.08 || 1], height - BOTTOM, top);
  const xs = log ? DECADES.filter((t) => t >= xMin && t <= xMax) : ticks(0, shownUnit(curve.x_unit).at(xMax), 6);
  const [alongX, upY] = [shownUnit(curve.x_unit), shownUnit(curve.y_unit)];
  const yTicks = ticks(upY.at(y.domain[0]), upY.at(y.domain[1]), 5);
  const line = (of: readonly (readonly [number, number])[]) => of.map((p, i) => `${i ? "L" : "M"}${x(p[0]).toFixed(1)} ${y(p[1]).toFixed(1)}`).join("");
  const words = points.map((p) => `${amount(p[1], curve.y_unit, 3)} at ${amount(p[0], curve.x_unit, p[0] < 10 ? 2 : 0)}`).join(", ");
  return (
    <div>
      {curve.log_x && (
        <SegmentedControl size="xs" value={log ? "log" : "plain"} onChange={(v) => setLog(v === "log")} data={[{ value: "log", label: "log time" }, { value: "plain", label: "plain time" }]} aria-label="Axis of time" />
      )}
      <svg viewBox={`0 0 ${WIDTH} ${height}`} style={{ width: "100%", display: "block" }} role="img" aria-label={`${curve.y_label} over ${curve.x_label}: ${words}`} fontFamily="var(--sans)">
        {yTicks.map((t) => (
          <g key={t}>
            <line x1={LEFT} x2={WIDTH - RIGHT} y1={y(upY.back(t))} y2={y(upY.back(t))} stroke="var(--line)" strokeWidth="0.7" />
            <text x={LEFT - 7} y={y(upY.back(t)) + 4} textAnchor="end" fontSize="12" fontFamily="var(--mono)" fill="var(--soft)">
              {tickLabel(t, yTicks)}
            </text>
          </g>
        ))}
        {xs.map((t) => (
          <g key={t}>
            <line x1={x(alongX.back(t))} x2={x(alongX.back(t))} y1={height - BOTTOM} y2={height - BOTTOM + 4} stroke="var(--ink)" />
            <text x={x(alongX.back(t))} y={height - BOTTOM + 17} textAnchor="middle" fontSize="12" fontFamily="var(--mono)" fill="var(--soft)">
              {log ? String(t) : tickLabel(t, xs)}
            </text>
          </g>
        ))}
        <line x1={LEFT} x2={WIDTH - RIGHT} y1={height - BOTTOM} y2={height - BOTTOM} stroke="var(--ink)" />
        {horizon !== null && (
          <g>
            <line x1={x(horizon)} x2={x(horizon)} y1={top} y2={height - BOTTOM} stroke="var(--accent)" strokeDasharray="4 4" />
            <text x={x(horizon) - 5} y={top + 12} textAnchor="end" fontSize="12" fill="var(--accent)">
              horizon {fixed(horizon, 0)} h
            </text>
          </g>
        )}
        {room.length > 0 && <Room points={room} x={x} width={WIDTH} />}
        {law.length > 0 && <path d={line(law)} fill="none" stroke="var(--better)" strokeWidth="1.8" />}
        {!law.length && <path d={line(points)} fill="none" stroke="var(--soft)" strokeWidth="1.2" strokeDasharray="3 3" />}
        <Drifts curve={curve} x={x} y={y} />
        {points.map((p) => (
          <circle key={p[0]} cx={x(p[0])} cy={y(p[1])} r="4.4" fill="var(--ink)" />
        ))}
        <text x={(LEFT + WIDTH) / 2} y={height - 8} textAnchor="middle" fontSize="13" fill="var(--soft)">
          {curve.x_label}, {alongX.unit}
        </text>
        <text transform={`translate(14 ${(top + height - BOTTOM) / 2}) rotate(-90)`} textAnchor="middle" fontSize="13" fill="var(--soft)">
          {curve.y_label}, {upY.unit}
        </text>
      </svg>
    </div>
  );
}

/** How far it went on at each load: from the first reading under it to the last. */
function Drifts({ curve, x, y }: { curve: CurveData; x: (v: number) => number; y: (v: number) => number }) {
  return Object.entries(curve.marks)
    .filter(([name]) => name.startsWith("readings@"))
    .map(([name, flat]) => {
      const load = Number(name.slice("readings@".length));
      const values = pairs(flat).map((p) => p[0]);
      return (
        <g key={name} stroke="var(--accent)">
          <line x1={x(Math.min(...values))} x2={x(Math.max(...values))} y1={y(load)} y2={y(load)} strokeWidth="3" />
          {values.map((v, i) => (
            <line key={i} x1={x(v)} x2={x(v)} y1={y(load) - 7} y2={y(load) + 7} strokeWidth="1.4" />
          ))}
        </g>
      );
    });
}

/** The room's temperature as a strip over the same time. */
export function Room({ points, x, width }: { points: readonly (readonly [number, number])[]; x: (v: number) => number; width: number }) {
  const values = points.map((p) => p[1]);
  const [low, high] = [Math.floor(Math.min(...values)), Math.ceil(Math.max(...values))];
  const y = scale([low, Math.max(high, low + 1)], STRIP - 6, 8);
  const wide = Math.max(...values) - Math.min(...values) > 5;
  return (
    <g>
      <rect x={LEFT} y={2} width={width - LEFT - RIGHT} height={STRIP} fill="var(--raised)" />
      <path d={points.map((p, i) => `${i ? "L" : "M"}${x(p[0]).toFixed(1)} ${y(p[1]).toFixed(1)}`).join("")} fill="none" stroke={wide ? "var(--caution)" : "var(--soft)"} strokeWidth="1.6" />
      {points.map((p) => (
        <circle key={p[0]} cx={x(p[0])} cy={y(p[1])} r="2.4" fill={wide ? "var(--caution)" : "var(--soft)"} />
      ))}
      <text x={LEFT - 7} y={14} textAnchor="end" fontSize="11" fontFamily="var(--mono)" fill="var(--soft)">
        {inShown(high, "°C", 0)}
      </text>
      <text x={LEFT - 7} y={STRIP} textAnchor="end" fontSize="11" fontFamily="var(--mono)" fill="var(--soft)">
        {amount(low, "°C", 0)}
      </text>
      <text x={LEFT + 6} y={15} fontSize="11.5" fill={wide ? "var(--caution)" : "var(--soft)"}>
        room{wide ? `: over ${difference(5, "°C", 0)} apart` : ""}
      </text>
    </g>
  );
}

const pairs = (flat: number[] | undefined): [number, number][] => Array.from({ length: Math.floor((flat?.length ?? 0) / 2) }, (_, i) => [flat?.[2 * i] ?? 0, flat?.[2 * i + 1] ?? 0]);

/** Findley's law as the server fitted it: d0 and A in mm, t in days; drawn over hours. */
function fitted(curve: CurveData, from: number, to: number, log: boolean): [number, number][] {
  const law = curve.marks["findley"];
  if (!law) return [];
  const [d0 = 0, a = 0, n = 0] = law;
  return Array.from({ length: 60 }, (_, i) => {
    const share = i / 59;
    const hours = log ? from * (to / from) ** share : from + (to - from) * share;
    return [hours, d0 + a * (hours / 24) ** n];
  });
}
