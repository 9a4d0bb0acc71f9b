import { useMemo, useState } from "react";

import type { Schemas } from "../api/client";
import { boundSign, figure, interval, tickLabel, ticks } from "../ui/format";
import { armWords, Swatch } from "../ui/Swatch";
import { VerdictGlyph, verdictColour, type VerdictWord } from "../ui/Verdict";
import { Clipped } from "./Clipped";
import { Dot, MeanArrow } from "./Dot";
import { Interval } from "./Interval";
import { nearest, pointIn } from "./nearest";
import { domainWith, type Scale, scale } from "./scale";
import { shownQuantity } from "../ui/units";

interface DotIntervalProps {
  arms: Schemas["FindingArm"][];
  /** What is drawn beside it on the same scale. */
  also?: readonly Schemas["FindingArm"][];
  referenceId: string | null;
  quantity: Schemas["QuantityView"];
  selected: string | null;
  onSelect: (specimenId: string | null, runId: string) => void;
}

const NONE: readonly Schemas["FindingArm"][] = [];
const LEFT = 176;
const RIGHT = 100;
const TOP = 26;
const ROW = 50;
const WIDTH = 620;

/** Every specimen as a dot, the mean with its 95 % interval, the reference with the margin that matters. */
export function DotInterval({ arms, also = NONE, referenceId, quantity, selected, onSelect }: DotIntervalProps) {
  const shownAs = shownQuantity(quantity);
  const { unit } = shownAs;
  const reference = arms.find((a) => a.arm.id === referenceId);
  const margin = arms.map((a) => a.verdict?.margin).find((m) => m != null) ?? null;
  const centre = reference?.group?.mean ?? null;
  const domain = useMemo(
    () =>
      domainWith(
        [...arms, ...also].flatMap((a) => [...a.dots.flatMap((d) => (d.value === null ? [] : [d.value])), ...(a.group ? [a.group.mean] : [])]).concat(centre !== null && margin !== null ? [centre - margin, centre + margin] : []),
        [...arms, ...also].flatMap((a) => [a.group?.ci95, a.group?.ci95_new_batch].filter((ci) => ci != null)),
      ),
    [arms, also, centre, margin],
  );
  const at = scale(domain, LEFT, WIDTH - RIGHT);
  const height = TOP + arms.length * ROW + 44;
  const bottom = TOP + arms.length * ROW;
  const marks = ticks(shownAs.at(domain[0]), shownAs.at(domain[1]), 5);
  const text = arms
    .map((a) => `${a.arm.material.maker} ${a.arm.material.product} ${a.group ? `${figure(shownAs.at(a.group.mean))} ${unit}, n ${a.group.n}` : "not tested"}`)
    .join("; ");
  return (
    <svg viewBox={`0 0 ${WIDTH} ${height}`} style={{ width: "100%", display: "block" }} role="group" aria-label={`${quantity.label} by material: ${text}`} fontFamily="var(--sans)">
      {centre !== null && margin !== null && <rect x={at(centre - margin)} y={TOP} width={at(centre + margin) - at(centre - margin)} height={bottom - TOP} fill="var(--raised)" />}
      {centre !== null && <line x1={at(centre)} x2={at(centre)} y1={TOP - 6} y2={bottom} stroke="var(--ink)" strokeDasharray="3 3" />}
      {centre !== null && (
        <text x={at(centre)} y={TOP - 10} textAnchor="middle" fontSize="12" fill="var(--soft)">
          reference
        </text>
      )}
      {arms.map((a, i) => (
        <ArmRow key={a.arm.id} a={a} y={TOP + i * ROW + ROW / 2} isReference={a.arm.id === referenceId} quantity={quantity} at={at} selected={selected} onSelect={onSelect} />
      ))}
      <line x1={LEFT} x2={WIDTH - RIGHT} y1={bottom} y2={bottom} stroke="var(--ink)" />
      {marks.map((t) => (
        <g key={t}>
          <line x1={at(shownAs.back(t))} x2={at(shownAs.back(t))} y1={bottom} y2={bottom + 5} stroke="var(--ink)" />
          <text x={at(shownAs.back(t))} y={bottom + 19} textAnchor="middle" fontSize="12.5" fontFamily="var(--mono)" fill="var(--soft)">
            {tickLabel(t, marks)}
          </text>
        </g>
      ))}
      <text x={(LEFT + WIDTH - RIGHT) / 2} y={bottom + 38} textAnchor="middle" fontSize="13" fill="var(--soft)">
        {quantity.label}
        {unit && `, ${unit}`}
      </text>
    </svg>
  );
}

interface ArmRowProps {
  a: Schemas["FindingArm"];
  /** The middle of the row. */
  y: number;
  isReference: boolean;
  quantity: Schemas["QuantityView"];
  at: Scale;
  selected: string | null;
  onSelect: DotIntervalProps["onSelect"];
}

function ArmRow({ a, y, isReference, quantity, at, selected, onSelect }: ArmRowProps) {
  const verdict: VerdictWord = isReference ? "reference" : (a.verdict?.word ?? "no verdict");
  const colour = verdictColour[verdict];
  const counted = (n: number | undefined, words: string) => (n ? `, ${quantity.derived ? "" : `${String(n)} `}${words}` : "");
  const told = armWords(a.arm);
  const below = [!told && a.arm.material.colour, !quantity.derived && `n ${String(a.group?.n ?? 0)}`].filter(Boolean).join(" · ") + counted(a.group?.at_least, "at least") + counted(a.group?.at_most, "at most");
  // three lines where there is something to tell the arm by and something below it
  const lift = told && below ? 7 : 0;
  // the dots lie over one another: a touch takes the nearest, not the uppermost
  const pick = (e: React.MouseEvent<SVGGraphicsElement>) => {
    const dot = nearest(a.dots.filter((d) => d.value !== null), (d) => [at(d.value ?? 0), dotY(y, a.dots.indexOf(d))], pointIn(e.currentTarget, e), 16);
    if (dot) onSelect(dot.specimen_id, dot.run_id);
  };
  return (
    <g>
      <line x1={LEFT} x2={WIDTH - RIGHT} y1={y + ROW / 2} y2={y + ROW / 2} stroke="var(--line)" strokeWidth="0.7" />
      <Swatch x={2} y={y - 15} size={30} hex={a.arm.material.hex} mark={a.arm.mark} filled={a.arm.material.filler !== null} />
      <text x="40" y={y - 2 - lift} fontSize="14" fontWeight="650" fill="var(--ink)">
        {a.arm.material.maker} {a.arm.material.product}
      </text>
      {told && (
        <text x="40" y={y + (below ? 5 : 14)} fontSize="12" fill="var(--soft)">
          <Clipped words={told} most={23} />
        </text>
      )}
      <text x="40" y={y + 14 + lift} fontSize="12" fill="var(--soft)">
        {below}
      </text>
      <rect
        x={LEFT}
        y={y - ROW / 2}
        width={WIDTH - RIGHT - LEFT}
        height={ROW}
        fill="transparent"
        onClick={pick}
      />
      {a.dots.map((d, k) => d.value !== null && <SpecimenDot key={d.run_id} d={d} value={d.value} k={k} y={y} at={at} quantity={quantity} colour={colour} selected={selected === d.run_id} onSelect={onSelect} onTouch={pick} />)}
      <MeanOf a={a} y={y} at={at} quantity={quantity} verdict={verdict} />
    </g>
  );
}

/** Equal values of a row stay apart. */
const dotY = (y: number, k: number) => y + 9 + ((k * 5) % 9);

type DotView = ArmRowProps["a"]["dots"][number];

interface SpecimenDotProps extends Omit<ArmRowProps, "a" | "isReference" | "selected"> {
  d: DotView;
  value: number;
  k: number;
  colour: string;
  selected: boolean;
  onTouch: (e: React.MouseEvent<SVGGraphicsElement>) => void;
}

function stateWords(d: DotView): string {
  if (d.state === "left_out") return ", left out";
  if (d.bound === "at_least") return ", at least";
  if (d.state === "apart") return ", from another rig";
  return d.state === "open" ? ", readings still to come" : "";
}

/** One specimen, the `k`th of its row. */
function SpecimenDot({ d, value, k, y, at, quantity, colour, selected, onSelect, onTouch }: SpecimenDotProps) {
  const [near, setNear] = useState(false);
  const shownAs = shownQuantity(quantity);
  const { unit } = shownAs;
  const shown = `${figure(shownAs.at(value))} ${unit}`;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={`specimen ${d.code}, ${shown}${stateWords(d)}`}
      style={{ cursor: "pointer" }}
      onClick={onTouch}
      onKeyDown={(e) => {
        if (e.key === "Enter" || e.key === " ") {
          e.preventDefault();
          onSelect(d.specimen_id, d.run_id);
        }
      }}
      onMouseEnter={() => setNear(true)}
      onMouseLeave={() => setNear(false)}
      onFocus={() => setNear(true)}
      onBlur={() => setNear(false)}
    >
      <circle cx={at(value)} cy={dotY(y, k)} r="12" fill="transparent" />
      <Dot dot={d} x={at(value)} y={dotY(y, k)} r={selected ? 6.5 : 4.6} colour={colour} />
      {near && (
        <text x={at(value)} y={y - 9} textAnchor="middle" fontSize="12.5" fontFamily="var(--mono)" fill="var(--ink)" stroke="var(--ground)" strokeWidth="3" paintOrder="stroke">
          {d.code} {shown}
          {d.reason ? ` · ${d.reason}` : ""}
        </text>
      )}
    </g>
  );
}

/** The mean with its interval, its verdict and its figure. */
function MeanOf({ a, y, at, quantity, verdict }: Pick<ArmRowProps, "a" | "y" | "at" | "quantity"> & { verdict: VerdictWord }) {
  const shownAs = shownQuantity(quantity);
  const { unit } = shownAs;
  const colour = verdictColour[verdict];
  if (!a.group) return null;
  const { mean, ci95, ci95_new_batch } = a.group;
  const shown = ci95 ? shownAs.ends(ci95) : null;
  return (
    <>
      {ci95_new_batch && <Interval ci={ci95_new_batch} at={at} y={y - 5} colour={colour} width={1.1} />}
      {ci95 && <Interval ci={ci95} at={at} y={y - 5} colour={colour} width={3.2} />}
      <circle cx={at(mean)} cy={y - 5} r="6" fill={colour} />
      <MeanArrow group={a.group} x={at(mean)} y={y - 5} r={6} colour={colour} />
      <VerdictGlyph verdict={verdict} x={WIDTH - RIGHT + 12} y={y - 10} />
      <text x={WIDTH - 4} y={y + 1} textAnchor="end" fontSize="15" fontWeight="700" fontFamily="var(--mono)" fill={colour}>
        {boundSign(a.group)}
        {figure(shownAs.at(mean), shown)}
      </text>
      <title>
        {shown ? `95 % interval ${interval(shown)} ${unit}` : a.group.n > 1 ? "no interval" : "one value: no interval"}
        {ci95_new_batch && `; of these prints. Over batches: ${interval(shownAs.ends(ci95_new_batch))} ${unit} (thin line)`}
      </title>
    </>
  );
}
