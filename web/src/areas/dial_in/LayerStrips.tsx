import { useMemo, useState } from "react";

import type { Schemas } from "../../api/client";
import { count, fixed, tickLabel, ticks } from "../../ui/format";
import { shownUnit } from "../../ui/units";
import css from "./gcode.module.css";

type Columns = Schemas["LayerColumns"];

interface Strip {
  title: string;
  unit: string;
  low?: readonly (number | null)[];
  mean: readonly (number | null)[];
  high?: readonly (number | null)[];
}

const HEIGHT = 380;
const WIDTH = 166;

interface LayerStripsProps {
  columns: Columns;
  /** Layers to be pointed at, from 1. */
  marked?: readonly (readonly number[])[];
}

/** A print by its height: strips of time, speed, flow, wall speed, fan and heat side by side, one layer read across all. */
export function LayerStrips({ columns: c, marked = [] }: LayerStripsProps) {
  const [at, setAt] = useState<number | null>(null);
  const strips = useMemo<Strip[]>(
    () => [
      { title: "time a layer", unit: "s", mean: c.seconds },
      { title: "speed", unit: "mm/s", low: c.speed_low, mean: c.speed_mean, high: c.speed_high },
      { title: "outer contour", unit: "mm/s", low: c.contour_low, mean: c.contour_mean, high: c.contour_high },
      { title: "flow", unit: "mm³/s", low: c.flow_low, mean: c.flow_mean, high: c.flow_high },
      { title: "fan", unit: "%", mean: c.fan.map((f) => f * 100) },
      { title: "nozzle", unit: "°C", mean: c.nozzle },
    ],
    [c],
  );
  const top = c.z.at(-1) ?? 1;
  const y = (z: number) => HEIGHT - (z / top) * HEIGHT;
  const move = (e: React.PointerEvent<HTMLDivElement>) => {
    const svg = e.currentTarget.querySelector("svg");
    if (!svg) return;
    const box = svg.getBoundingClientRect();
    const z = ((HEIGHT + 10 - (e.clientY - box.top)) / HEIGHT) * top;
    setAt(c.z.reduce((best, value, i) => (Math.abs(value - z) < Math.abs((c.z[best] ?? 0) - z) ? i : best), 0));
  };
  const keys = (e: React.KeyboardEvent) => {
    if (e.key !== "ArrowUp" && e.key !== "ArrowDown") return;
    e.preventDefault();
    setAt((now) => Math.min(c.z.length - 1, Math.max(0, (now ?? 0) + (e.key === "ArrowUp" ? 1 : -1))));
  };
  return (
    <div>
      <p className={css.read} role="status">
        {at === null ? (
          <span className="soft">Point at a height, or go through the layers with the arrow keys.</span>
        ) : (
          <>
            layer {at + 1}, {fixed(shownUnit("mm").at(c.z[at] ?? 0), 2)} {shownUnit("mm").unit}:{" "}
            {strips.map((s) => (s.mean[at] == null ? "" : `${s.title} ${fixed(shownUnit(s.unit).at(s.mean[at]), 1)} ${shownUnit(s.unit).unit}`)).filter(Boolean).join(" · ")}
          </>
        )}
      </p>
      <div className={css.strips} tabIndex={0} role="group" aria-label={`Strips by height, ${count(c.z.length, "layer")}`} onPointerMove={move} onPointerLeave={() => setAt(null)} onKeyDown={keys}>
        <Heights top={top} y={y} />
        {strips.filter((s) => s.mean.some((v) => v !== null)).map((s) => (
          <One key={s.title} strip={s} z={c.z} y={y} at={at} marked={marked} />
        ))}
      </div>
    </div>
  );
}

function Heights({ top, y }: { top: number; y: (z: number) => number }) {
  const shown = shownUnit("mm");
  const marks = ticks(0, shown.at(top), 6);
  return (
    <div className={css.strip}>
      <h3>height</h3>
      <svg width="46" height={HEIGHT + 46} aria-hidden="true">
        {marks.map((m) => (
          <text key={m} x="42" y={y(shown.back(m)) + 14} textAnchor="end" fontSize="11" fill="var(--soft)" fontFamily="var(--mono)">
            {tickLabel(m, marks)}
          </text>
        ))}
        <text x="42" y={HEIGHT + 40} textAnchor="end" fontSize="11" fill="var(--soft)">
          {shown.unit}
        </text>
      </svg>
    </div>
  );
}

/** One figure over the height: its mean as a line, and where it has one, its spread as a band. */
function One({ strip, z, y, at, marked }: { strip: Strip; z: readonly number[]; y: (z: number) => number; at: number | null; marked: readonly (readonly number[])[] }) {
  const shown = shownUnit(strip.unit);
  const path = useMemo(() => {
    const all = [...(strip.low ?? []), ...strip.mean, ...(strip.high ?? [])].filter((v): v is number => v !== null).map(shown.at);
    const high = Math.max(...all, 0);
    const low = strip.title === "nozzle" ? Math.min(...all) - 5 : 0;
    const span = high - low || 1;
    const x = (v: number) => ((shown.at(v) - low) / span) * (WIDTH - 8) + 4;
    const heights = z.map((value, i) => [i ? (z[i - 1] ?? 0) : 0, value] as const);
    const line = heights.map(([from, to], i) => (strip.mean[i] == null ? "" : `M${x(strip.mean[i]).toFixed(1)} ${(y(from) + 10).toFixed(1)}V${(y(to) + 10).toFixed(1)}`)).join("");
    const band = heights
      .map(([from, to], i) => {
        const a = strip.low?.[i];
        const b = strip.high?.[i];
        return a == null || b == null ? "" : `M${x(a).toFixed(1)} ${(y(from) + 10).toFixed(1)}V${(y(to) + 10).toFixed(1)}H${Math.max(x(b), x(a) + 0.6).toFixed(1)}V${(y(from) + 10).toFixed(1)}Z`;
      })
      .join("");
    return { line, band, marks: ticks(low, high, 3), x: (v: number) => ((v - low) / span) * (WIDTH - 8) + 4 };
  }, [strip, z, y, shown]);
  return (
    <div className={css.strip}>
      <h3>
        {strip.title}, {shown.unit}
      </h3>
      <svg width={WIDTH} height={HEIGHT + 46} role="img" aria-label={`${strip.title} over the height`}>
        <rect x="0" y="10" width={WIDTH} height={HEIGHT} fill="var(--surface)" stroke="var(--line)" />
        {marked.map(([a, b]) => {
          const low = (a ?? 1) > 1 ? (z[(a ?? 1) - 2] ?? 0) : 0;
          const high = z[(b ?? 1) - 1] ?? low;
          return <rect key={`${String(a)}-${String(b)}`} x="0" y={y(high) + 10} width={WIDTH} height={Math.max(1.5, y(low) - y(high))} fill="var(--caution)" opacity="0.18" />;
        })}
        {path.band && <path d={path.band} fill="var(--equivalent)" opacity="0.35" />}
        <path d={path.line} stroke="var(--ink)" strokeWidth="1.6" fill="none" />
        {at !== null && <path d={`M0 ${String(y(z[at] ?? 0) + 10)}H${String(WIDTH)}`} stroke="var(--accent)" strokeWidth="1.5" />}
        {path.marks.map((m) => (
          <g key={m}>
            <path d={`M${String(path.x(m))} ${String(HEIGHT + 10)}v5`} stroke="var(--soft)" />
            <text x={path.x(m)} y={HEIGHT + 28} textAnchor={path.x(m) > WIDTH - 14 ? "end" : path.x(m) < 10 ? "start" : "middle"} fontSize="11" fill="var(--soft)" fontFamily="var(--mono)">
              {tickLabel(m, path.marks)}
            </text>
          </g>
        ))}
      </svg>
    </div>
  );
}

