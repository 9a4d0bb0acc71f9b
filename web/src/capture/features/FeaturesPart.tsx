import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { shapeSheetOptions } from "../../api/queries/printing";
import { type Loops, pathOf, placed, spanOf } from "../../figures/drawings/outlines";
import { size } from "../../figures/drawings/sizes";
import { fixed } from "../../ui/format";
import css from "../capture.module.css";
import { type PartProps, unitOf } from "../parts";
import { Place } from "../Place";
import { valueOf } from "../Stage";

const KIND = { outer: "outside", inner: "hole", centre: "middle to middle" } as Record<string, string>;

/** The gauge with the length lit up that is to be measured; one types, and the next lights up. */
export function FeaturesPart(part: PartProps) {
  const field = part.step.fields[0];
  const [active, setActive] = useState<number>(0);
  const features = part.test.shape.features;
  if (!field) return null;
  const unit = unitOf(part.rig, field);
  return (
    <div className={css.gauge} onFocusCapture={(e) => e.target instanceof HTMLInputElement && setActive(Number(e.target.name.slice(e.target.name.lastIndexOf("-") + 1)))}>
      <Gauge part={part} active={active} />
      <div className={css.features}>
        {features.map((f, i) => {
          const value = valueOf(part, field.name, i);
          const off = value === null || unit !== "mm" ? null : value - f.nominal;
          return (
            <div key={f.name} className={css.feature} data-here={i === active || undefined}>
              <Place part={part} field={{ ...field, label: f.name }} position={i}>
                <span className={css.over}>
                  {KIND[f.kind] ?? f.kind} {size(f.nominal)}
                </span>
              </Place>
              <span className={css.off}>{off !== null && Math.abs(off) < 5 ? `${off >= 0 ? "+" : "−"}${fixed(Math.abs(off), 2)}` : ""}</span>
            </div>
          );
        })}
      </div>
    </div>
  );
}

const [W, H] = [640, 420];

function Gauge({ part, active }: { part: PartProps; active: number }) {
  const { shape } = part.test;
  const sheet = useQuery(shapeSheetOptions(shape.name, []));
  const top: Loops = sheet.data?.top ?? [];
  if (!top.length) return <svg viewBox={`0 0 ${String(W)} ${String(H)}`} aria-hidden="true" />;
  const span = spanOf(top);
  const scale = Math.min((W - 60) / (span.u[1] - span.u[0]), (H - 50) / (span.v[1] - span.v[0]));
  const { at } = placed(span, (W - scale * (span.u[1] - span.u[0])) / 2, H - 30, scale);
  const lit = shape.features[active];
  return (
    <svg viewBox={`0 0 ${String(W)} ${String(H)}`} role="img" aria-label={`${shape.label}, from above${lit ? `; to be measured: ${lit.name}` : ""}`} fontFamily="var(--sans)">
      <path d={pathOf(top, at)} fill="var(--surface)" stroke="var(--ink)" strokeWidth="2" fillRule="evenodd" data-testid="outline" />
      {shape.features.map((f, i) => {
        const [a, b] = [at(f.start[0], f.start[1]), at(f.end[0], f.end[1])];
        const own = i === active;
        if (!own) return <path key={f.name} d={`M${String(a.x)} ${String(a.y)}L${String(b.x)} ${String(b.y)}`} stroke="var(--line)" strokeWidth="1.5" strokeDasharray="3 5" />;
        // the ends are marked across the length, which lies along x or y
        const upright = Math.abs(a.x - b.x) < Math.abs(a.y - b.y);
        const end = ({ x, y }: { x: number; y: number }) => (upright ? `M${String(x - 11)} ${String(y)}h22` : `M${String(x)} ${String(y - 11)}v22`);
        return (
          <g key={f.name} stroke="var(--accent)" strokeWidth="4" data-lit={f.name}>
            <path d={`M${String(a.x)} ${String(a.y)}L${String(b.x)} ${String(b.y)}${end(a)}${end(b)}`} fill="none" />
            <text x={(a.x + b.x) / 2 + (upright ? 54 : 0)} y={upright ? (a.y + b.y) / 2 + 7 : a.y - 22} textAnchor="middle" fontSize="22" fontWeight="700" stroke="var(--surface)" strokeWidth="6" paintOrder="stroke" fill="var(--accent)">
              {size(f.nominal)}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
