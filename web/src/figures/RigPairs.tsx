import { type ReactNode } from "react";

import { figure, tickLabel, ticks } from "../ui/format";
import { Swatch } from "../ui/Swatch";
import { domainOf, type Scale, scale } from "./scale";

export interface PairMark {
  name: string;
  swatch: { hex: string; mark: string; filled: boolean };
  one: number;
  other: number;
}

export interface PairLine {
  /** x, y, and the ends of the prediction interval. */
  band: readonly (readonly [number, number, number, number])[];
}

interface RigPairsProps {
  pairs: readonly PairMark[];
  line: PairLine | null;
  /** Mean difference and the limits of a further one. */
  mean: number;
  limits: readonly [number, number] | null;
  names: readonly [string, string];
  unit: string;
  label: string;
}

const SIDE = 330;
const HEIGHT = 280;
const BOX = { left: 58, right: 14, top: 24, bottom: 46 };
const GAP = 26;

/** The same materials on two rigs: side by side, one against the other with Deming's line, and their differences. */
export function RigPairs({ pairs, line, mean, limits, names, unit, label }: RigPairsProps) {
  const values = pairs.flatMap((p) => [p.one, p.other]);
  const range = domainOf(values, 0.1);
  const width = 3 * SIDE + 2 * GAP;
  const words = pairs.map((p) => `${p.name}: ${figure(p.one)} and ${figure(p.other)}`).join("; ");
  return (
    <svg viewBox={`0 0 ${String(width)} ${String(HEIGHT)}`} width="100%" style={{ maxWidth: width, display: "block", minWidth: 640 }} role="img" aria-label={`${label} on ${names[0]} and on ${names[1]}. ${words}`}>
      <Side pairs={pairs} range={range} names={names} label={unit} />
      <g transform={`translate(${String(SIDE + GAP)} 0)`}>
        <Against pairs={pairs} range={range} line={line} names={names} unit={unit} />
      </g>
      <g transform={`translate(${String(2 * (SIDE + GAP))} 0)`}>
        <Differences pairs={pairs} mean={mean} limits={limits} unit={unit} />
      </g>
    </svg>
  );
}

function Panel({ title, x, y, xLabel, yLabel, children }: { title: string; x: Scale | null; y: Scale; xLabel: string; yLabel: string; children: ReactNode }) {
  const up = ticks(y.domain[0], y.domain[1], 4);
  const along = x ? ticks(x.domain[0], x.domain[1], 4) : [];
  const bottom = HEIGHT - BOX.bottom;
  return (
    <g>
      <text x={BOX.left} y={14} fontSize="13" fontWeight="650" fill="var(--ink)">
        {title}
      </text>
      {up.map((t) => (
        <g key={t}>
          <line x1={BOX.left} x2={SIDE - BOX.right} y1={y(t)} y2={y(t)} stroke="var(--line)" />
          <text x={BOX.left - 7} y={y(t) + 4} textAnchor="end" fontSize="12.5" fontFamily="var(--mono)" fill="var(--soft)">
            {tickLabel(t, up)}
          </text>
        </g>
      ))}
      {x &&
        along.map((t) => (
          <text key={t} x={x(t)} y={bottom + 17} textAnchor="middle" fontSize="12.5" fontFamily="var(--mono)" fill="var(--soft)">
            {tickLabel(t, along)}
          </text>
        ))}
      <text x={(BOX.left + SIDE - BOX.right) / 2} y={HEIGHT - 9} textAnchor="middle" fontSize="13" fill="var(--soft)">
        {short(xLabel, 42)}
      </text>
      <text transform={`translate(13 ${String((bottom + BOX.top) / 2)}) rotate(-90)`} textAnchor="middle" fontSize="13" fill="var(--soft)">
        {short(yLabel, 32)}
      </text>
      {children}
    </g>
  );
}

const short = (words: string, most: number) => (words.length > most ? `${words.slice(0, most - 1)}…` : words);

function Side({ pairs, range, names, label }: { pairs: readonly PairMark[]; range: readonly [number, number]; names: readonly [string, string]; label: string }) {
  const y = scale(range, HEIGHT - BOX.bottom, BOX.top);
  const [left, right] = [BOX.left + 40, SIDE - BOX.right - 40];
  return (
    <Panel title="Pairs" x={null} y={y} xLabel="" yLabel={label}>
      {names.map((name, i) => (
        <text key={name} x={i === 0 ? BOX.left : SIDE - BOX.right} y={HEIGHT - BOX.bottom + (i === 0 ? 18 : 34)} textAnchor={i === 0 ? "start" : "end"} fontSize="13" fill="var(--ink)">
          {short(name, 34)}
        </text>
      ))}
      {pairs.map((p) => (
        <g key={p.name}>
          <title>{p.name}</title>
          <line x1={left} x2={right} y1={y(p.one)} y2={y(p.other)} stroke="var(--ink)" strokeWidth="1.5" />
          {[[left, p.one] as const, [right, p.other] as const].map(([at, value], side) => (
            <Swatch key={side} x={at - 9} y={y(value) - 9} size={18} {...p.swatch} />
          ))}
        </g>
      ))}
    </Panel>
  );
}

function Against({ pairs, range, line, names, unit }: { pairs: readonly PairMark[]; range: readonly [number, number]; line: PairLine | null; names: readonly [string, string]; unit: string }) {
  const x = scale(range, BOX.left, SIDE - BOX.right);
  const y = scale(range, HEIGHT - BOX.bottom, BOX.top);
  const inside = (v: number) => Math.min(range[1], Math.max(range[0], v));
  const band = line?.band ?? [];
  const edge = [...band.map((b) => [b[0], b[3]] as const), ...band.toReversed().map((b) => [b[0], b[2]] as const)];
  const path = (of: readonly (readonly [number, number])[]) => of.map(([a, b]) => `${String(x(a))},${String(y(inside(b)))}`).join(" ");
  return (
    <Panel title={line ? "One against the other, with Deming’s line" : "One against the other"} x={x} y={y} xLabel={`${names[0]}, ${unit}`} yLabel={`${names[1]}, ${unit}`}>
      {edge.length > 0 && <polygon points={path(edge)} fill="var(--raised)" />}
      <line x1={x(range[0])} x2={x(range[1])} y1={y(range[0])} y2={y(range[1])} stroke="var(--soft)" strokeDasharray="2 4" />
      {band.length > 0 && <polyline points={path(band.map((b) => [b[0], b[1]] as const))} fill="none" stroke="var(--accent)" strokeWidth="2" />}
      {pairs.map((p) => (
        <g key={p.name}>
          <title>{p.name}</title>
          <Swatch x={x(p.one) - 9} y={y(p.other) - 9} size={18} {...p.swatch} />
        </g>
      ))}
    </Panel>
  );
}

function Differences({ pairs, mean, limits, unit }: { pairs: readonly PairMark[]; mean: number; limits: readonly [number, number] | null; unit: string }) {
  const x = scale(domainOf(pairs.map((p) => (p.one + p.other) / 2), 0.12), BOX.left, SIDE - BOX.right);
  const y = scale(domainOf([0, mean, ...(limits ?? []), ...pairs.map((p) => p.other - p.one)], 0.1), HEIGHT - BOX.bottom, BOX.top);
  const across = (value: number, dash?: string, width = 1.4) => <line x1={BOX.left} x2={SIDE - BOX.right} y1={y(value)} y2={y(value)} stroke="var(--ink)" strokeWidth={width} strokeDasharray={dash} />;
  return (
    <Panel title="Differences: mean and 95 % limits" x={x} y={y} xLabel={`mean of both, ${unit}`} yLabel={`difference, ${unit}`}>
      {across(0, "2 4", 1)}
      {across(mean)}
      {limits && across(limits[0], "6 4", 1.2)}
      {limits && across(limits[1], "6 4", 1.2)}
      {pairs.map((p) => (
        <g key={p.name}>
          <title>{p.name}</title>
          <Swatch x={x((p.one + p.other) / 2) - 9} y={y(p.other - p.one) - 9} size={18} {...p.swatch} />
        </g>
      ))}
    </Panel>
  );
}
