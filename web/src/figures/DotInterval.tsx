import { useElementSize } from "@mantine/hooks";
import { useMemo, useState } from "react";

import type { Schemas } from "../api/client";
import { boundSign, count, figure, fixed, interval, tickLabel, ticks } from "../ui/format";
import { Swatch } from "../ui/Swatch";
import { VerdictGlyph, verdictColour, type VerdictWord } from "../ui/Verdict";
import { apartOf } from "./apart";
import { Clipped } from "./Clipped";
import { Dot, MeanArrow } from "./Dot";
import { type Earlier, EARLIER_HEADING, EarlierRows, earlierValues, rowOfEarlier } from "./EarlierRows";
import { Interval } from "./Interval";
import { nearest, pointIn } from "./nearest";
import { domainWith, type Scale, scale } from "./scale";
import { shownQuantity } from "../ui/units";

/** Arms under one heading; no heading where they are not grouped. */
export interface ArmGroup {
  heading: string;
  arms: readonly Schemas["FindingArm"][];
}

interface DotIntervalProps {
  groups: readonly ArmGroup[];
  /** What is drawn beside it on the same scale. */
  also?: readonly Schemas["FindingArm"][];
  referenceId: string | null;
  quantity: Schemas["QuantityView"];
  selected: string | null;
  onSelect: (specimenId: string | null, runId: string) => void;
  /** Makes an arm the one that the others are compared with. */
  onReference?: (armId: string) => void;
  /** Results of these materials from elsewhere, drawn below the arms. */
  earlier?: readonly Earlier[];
  onEarlier?: (studyId: string, testId: string) => void;
}

const NONE: readonly Schemas["FindingArm"][] = [];
const NO_EARLIER: readonly Earlier[] = [];
const HEADING = 24;
/** From the specimens of one print of an arm to those of the next. */
const PRINT = 12;
const TOP = 40;

/** Where things are: side by side where there is room, else each arm's words above its line. */
interface Geometry {
  narrow: boolean;
  width: number;
  /** Ends of the axis. */
  left: number;
  right: number;
  row: number;
  /** From the middle of a row to its line with the mean. */
  mean: number;
}

function geometryFor(width: number): Geometry {
  if (width < 620) return { narrow: true, width, left: 10, right: width - 10, row: 112, mean: 32 };
  return { narrow: false, width, left: Math.min(230, width * 0.27), right: width - 262, row: 56, mean: -6 };
}

/** Every specimen as a dot, the mean with its 95 % interval, and how far each arm is from the reference, in figures and as a verdict. */
export function DotInterval({ groups, also = NONE, referenceId, quantity, selected, onSelect, onReference, earlier = NO_EARLIER, onEarlier }: DotIntervalProps) {
  const { ref, width } = useElementSize();
  const place = geometryFor(width || 860);
  const shownAs = shownQuantity(quantity);
  const { unit } = shownAs;
  const arms = useMemo(() => groups.flatMap((g) => g.arms), [groups]);
  const reference = arms.find((a) => a.arm.id === referenceId);
  const margin = arms.map((a) => a.verdict?.margin).find((m) => m != null) ?? null;
  const centre = reference?.group?.mean ?? null;
  const domain = useMemo(
    () =>
      domainWith(
        [...arms, ...also].flatMap((a) => [...a.dots.flatMap((d) => (d.value === null ? [] : [d.value])), ...(a.group ? [a.group.mean] : [])]).concat(centre !== null && margin !== null ? bandAbout(centre, margin, quantity.derived) : [], earlierValues(earlier)),
        [...arms, ...also].flatMap((a) => [a.group?.ci95, a.group?.ci95_new_batch].filter((ci) => ci != null)),
      ),
    [arms, also, earlier, centre, margin, quantity.derived],
  );
  const at = scale(domain, place.left, place.right);
  const { rows, headings, bottom: belowArms } = laidOut(groups, place);
  const bottom = belowArms + (earlier.length ? EARLIER_HEADING + earlier.length * rowOfEarlier(place.narrow) : 0);
  const band = centre === null || margin === null ? null : bandAbout(centre, margin, quantity.derived);
  const text = arms.map((a) => `${a.name} ${a.group ? `${figure(shownAs.at(a.group.mean))} ${unit}, n ${a.group.n}` : "not tested"}`).join("; ");
  return (
    <div ref={ref}>
      <svg viewBox={`0 0 ${String(place.width)} ${String(bottom + (margin === null ? 44 : 62))}`} style={{ width: "100%", display: "block" }} role="group" aria-label={`${quantity.label} by material: ${text}`} fontFamily="var(--sans)">
        {band && <rect x={at(band[0])} y={TOP} width={at(band[1]) - at(band[0])} height={bottom - TOP} fill="var(--raised)" />}
        {centre !== null && <line x1={at(centre)} x2={at(centre)} y1={TOP - 6} y2={bottom} stroke="var(--ink)" strokeDasharray="3 3" />}
        {centre !== null && !place.narrow && (
          <text x={at(centre)} y={TOP - 10} textAnchor="middle" fontSize="12" fill="var(--soft)">
            reference
          </text>
        )}
        {reference && (
          <text x={place.narrow ? 2 : place.width - 2} y={14} textAnchor={place.narrow ? "start" : "end"} fontSize="12" fill="var(--soft)">
            against <Clipped words={reference.name} most={40} />
          </text>
        )}
        {headings.map((h) => (
          <text key={h.text} x="2" y={h.y} fontSize="13" fontWeight="650" fill="var(--soft)">
            {h.text}
          </text>
        ))}
        {rows.map(({ a, y, below }) => (
          <ArmRow key={a.arm.id} a={a} y={y} below={below} place={place} isReference={a.arm.id === referenceId} quantity={quantity} at={at} selected={selected} onSelect={onSelect} onReference={onReference} />
        ))}
        {earlier.length > 0 && <EarlierRows earlier={earlier} top={belowArms + EARLIER_HEADING} place={place} at={at} shown={shownAs} onTest={(study, test) => onEarlier?.(study, test)} onReference={onReference} />}
        <Axis place={place} at={at} bottom={bottom} quantity={quantity} margin={margin} />
      </svg>
    </div>
  );
}

/** What does not matter about the reference; of ratios the margin is of their logarithm. */
const bandAbout = (centre: number, margin: number, isRatio: boolean): [number, number] => (isRatio ? [centre * Math.exp(-margin), centre * Math.exp(margin)] : [centre - margin, centre + margin]);

/** The axis with its quantity, and how wide the band is. */
function Axis({ place, at, bottom, quantity, margin }: { place: Geometry; at: Scale; bottom: number; quantity: Schemas["QuantityView"]; margin: number | null }) {
  const shownAs = shownQuantity(quantity);
  const { unit } = shownAs;
  const marks = ticks(shownAs.at(at.domain[0]), shownAs.at(at.domain[1]), place.narrow ? 4 : 5);
  const middle = (place.left + place.right) / 2;
  return (
    <>
      <line x1={place.left} x2={place.right} y1={bottom} y2={bottom} stroke="var(--ink)" />
      {marks.map((t) => (
        <g key={t}>
          <line x1={at(shownAs.back(t))} x2={at(shownAs.back(t))} y1={bottom} y2={bottom + 5} stroke="var(--ink)" />
          <text x={at(shownAs.back(t))} y={bottom + 19} textAnchor="middle" fontSize="12.5" fontFamily="var(--mono)" fill="var(--soft)">
            {tickLabel(t, marks)}
          </text>
        </g>
      ))}
      {margin !== null && (
        <text x={middle} y={bottom + 55} textAnchor="middle" fontSize="12" fill="var(--soft)">
          {`band: ${quantity.derived ? `× ${fixed(Math.exp(margin), 2)}` : `${figure(margin * shownAs.factor)} ${unit}`} is the smallest difference that matters`}
        </text>
      )}
      <text x={middle} y={bottom + 38} textAnchor="middle" fontSize="13" fill="var(--soft)">
        {quantity.label}
        {unit && `, ${unit}`}
      </text>
    </>
  );
}

/** The middle of each row, and where headings are. */
function laidOut(groups: readonly ArmGroup[], place: Geometry) {
  let y = TOP;
  const rows: { a: Schemas["FindingArm"]; y: number; below: number }[] = [];
  const headings: { text: string; y: number }[] = [];
  for (const g of groups) {
    if (g.heading) {
      headings.push({ text: g.heading, y: y + HEADING - 8 });
      y += HEADING;
    }
    for (const a of g.arms) {
      const more = PRINT * Math.max(0, printsOf(a) - 2);
      rows.push({ a, y: y + place.row / 2, below: place.row / 2 + more });
      y += place.row + more;
    }
  }
  return { rows, headings, bottom: y };
}

interface ArmRowProps {
  a: Schemas["FindingArm"];
  /** The middle of the row, and from there to its end. */
  y: number;
  below: number;
  place: Geometry;
  isReference: boolean;
  quantity: Schemas["QuantityView"];
  at: Scale;
  selected: string | null;
  onSelect: DotIntervalProps["onSelect"];
  onReference: DotIntervalProps["onReference"];
}

function ArmRow({ a, y, below, place, isReference, quantity, at, selected, onSelect, onReference }: ArmRowProps) {
  const verdict: VerdictWord = isReference ? "reference" : (a.verdict?.word ?? "no verdict");
  const colour = verdictColour[verdict];
  const line = y + place.mean;
  // the dots lie over one another: a touch takes the nearest, not the uppermost
  const pick = (e: React.MouseEvent<SVGGraphicsElement>) => {
    const dot = nearest(a.dots.filter((d) => d.value !== null), (d) => [at(d.value ?? 0), dotY(a, a.dots.indexOf(d), line)], pointIn(e.currentTarget, e), 16);
    if (dot) onSelect(dot.specimen_id, dot.run_id);
  };
  return (
    <g>
      <line x1={place.narrow ? 0 : place.left} x2={place.narrow ? place.width : place.right} y1={y + below} y2={y + below} stroke="var(--line)" strokeWidth="0.7" />
      <ArmLabel a={a} y={place.narrow ? y - 34 : y} place={place} isReference={isReference} quantity={quantity} onReference={onReference} />
      <rect x={place.left} y={line - 22} width={place.right - place.left} height={18 + below} fill="transparent" onClick={pick} />
      <Prints a={a} y={line} at={at} />
      {a.dots.map((d, k) => d.value !== null && <SpecimenDot key={d.run_id} d={d} print={printOf(a, k)} value={d.value} cy={dotY(a, k, line)} y={line} at={at} quantity={quantity} colour={colour} selected={selected === d.run_id} onSelect={onSelect} onTouch={pick} />)}
      <MeanOf a={a} y={line} at={at} quantity={quantity} verdict={verdict} />
      <Figures a={a} y={place.narrow ? y - 34 : y} place={place} quantity={quantity} verdict={verdict} />
    </g>
  );
}

/** How old a reference of another study is, or why nothing is compared with it. */
function ageWords(earlier: Schemas["EarlierArmView"]): string {
  const days = Math.round((Date.now() - Date.parse(earlier.on)) / 864e5);
  return earlier.differs.length ? `not compared: ${earlier.differs.join(", ")}` : `${count(days, "day")} old`;
}

/** Swatch, name and count of an arm; touched, it is what the others are compared with. */
function ArmLabel({ a, y, place, isReference, quantity, onReference }: Pick<ArmRowProps, "a" | "y" | "place" | "isReference" | "quantity" | "onReference">) {
  const counted = (n: number | undefined, words: string) => n && (quantity.derived ? words : `${String(n)} ${words}`);
  const below = [a.earlier && ageWords(a.earlier), !quantity.derived && `n ${String(a.group?.n ?? 0)}`, counted(a.group?.at_least, "at least"), counted(a.group?.at_most, "at most")].filter(Boolean).join(", ");
  const [title = "", ...others] = a.name.split(", ");
  // three lines where something tells it from others of its name
  const rest = others.join(", ");
  const colour = a.name.includes(a.arm.material.colour) || rest ? "" : a.arm.material.colour;
  const room = (place.narrow ? place.width * 0.55 : place.left) - 44;
  const lift = rest ? 7 : 0;
  const choose = onReference && !isReference ? () => onReference(a.arm.id) : undefined;
  return (
    <g>
      <Swatch x={2} y={y - 15} size={30} hex={a.arm.material.hex} mark={a.arm.mark} filled={a.arm.material.filler !== null} />
      {rest && (
        <text x="40" y={y + 6} fontSize="12" fill="var(--soft)">
          <Clipped words={rest} most={Math.floor(room / 6.2)} />
        </text>
      )}
      <text x="40" y={y + 14 + lift} fontSize="12" fill="var(--soft)">
        {[colour, below].filter(Boolean).join(" · ")}
      </text>
      <g
        {...(choose && {
          role: "button",
          tabIndex: 0,
          "aria-label": `${a.name}: compare the others with it`,
          style: { cursor: "pointer" },
          onClick: choose,
          onKeyDown: (e: React.KeyboardEvent) => {
            if (e.key !== "Enter" && e.key !== " ") return;
            e.preventDefault();
            choose();
          },
        })}
      >
        <text x="40" y={y - 2 - lift} fontSize="14" fontWeight="650" fill="var(--ink)">
          <Clipped words={title} most={Math.floor(room / 7.6)} />
        </text>
        <rect x="0" y={y - 18} width={room + 30} height="38" fill="transparent" />
      </g>
    </g>
  );
}

/** The mean, how far it is from the reference, and the verdict. */
function Figures({ a, y, place, quantity, verdict }: Pick<ArmRowProps, "a" | "y" | "place" | "quantity"> & { verdict: VerdictWord }) {
  const shownAs = shownQuantity(quantity);
  const colour = verdictColour[verdict];
  if (!a.group) return null;
  const shown = a.group.ci95 ? shownAs.ends(a.group.ci95) : null;
  const apart = apartOf(a, shownAs);
  const word = apart?.provisional ? "provisional" : verdict;
  const end = place.width - 2;
  const middle = place.narrow ? end : place.right + 104;
  const value = `${boundSign(a.group)}${figure(shownAs.at(a.group.mean), shown)}`;
  const grey = apart?.provisional ? "var(--soft)" : colour;
  return (
    <g>
      <VerdictGlyph verdict={verdict} x={place.narrow ? end - 20 - 9.2 * value.length : middle - 84} y={y - 12} />
      <text x={middle} y={y - 2} textAnchor="end" fontSize="15" fontWeight="700" fontFamily="var(--mono)" fill={colour}>
        {value}
      </text>
      <text x={place.narrow ? end - (apart ? 9.2 * apart.size.length + 8 : 0) : middle} y={y + (place.narrow ? 17 : 14)} textAnchor="end" fontSize="12" fill={colour}>
        {word}
      </text>
      {apart && (
        <>
          <text x={end} y={y + (place.narrow ? 17 : -2)} textAnchor="end" fontSize="15" fontWeight="700" fontFamily="var(--mono)" fill={grey}>
            {apart.size}
          </text>
          <text x={end} y={y + (place.narrow ? 33 : 14)} textAnchor="end" fontSize="12" fontFamily="var(--mono)" fill="var(--soft)">
            {apart.range}
          </text>
        </>
      )}
    </g>
  );
}

/** How many prints the specimens of an arm are from. */
const printsOf = (a: Schemas["FindingArm"]) => Math.max(1, ...a.prints);

/** Which print a specimen is from, where there are several. */
const printOf = (a: Schemas["FindingArm"], k: number) => (printsOf(a) > 1 ? (a.prints[k] ?? 1) : null);

/** Each print of an arm has a line of its own; of one print, equal values of a row stay apart. */
function dotY(a: Schemas["FindingArm"], k: number, line: number): number {
  const print = printOf(a, k);
  return print === null ? line + 15 + ((k * 5) % 9) : printY(print, line);
}

const printY = (print: number, line: number) => line + 12 + (print - 1) * PRINT;

/** The prints of an arm, where there are several: a line from the least to the greatest specimen of each, a stroke at its mean. */
function Prints({ a, y, at }: { a: Schemas["FindingArm"]; y: number; at: Scale }) {
  if (printsOf(a) < 2) return null;
  const numbers = [...new Set(a.prints)].sort((one, other) => one - other);
  return numbers.map((print) => {
    const values = a.dots.flatMap((d, k) => (a.prints[k] === print && d.state === "counts" && d.value !== null ? [d.value] : []));
    if (!values.length) return null;
    const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
    const line = printY(print, y);
    return (
      <g key={print} stroke="var(--soft)" strokeWidth="1.2">
        <line x1={at(Math.min(...values))} x2={at(Math.max(...values))} y1={line} y2={line} />
        <line x1={at(mean)} x2={at(mean)} y1={line - 5} y2={line + 5} strokeWidth="2" />
        <text x={at(Math.max(...values)) + 8} y={line + 4} fontSize="11" stroke="none" fill="var(--soft)">
          {`print ${String(print)}`}
        </text>
      </g>
    );
  });
}

type DotView = ArmRowProps["a"]["dots"][number];

interface SpecimenDotProps extends Omit<ArmRowProps, "a" | "isReference" | "selected" | "place" | "below" | "onReference"> {
  d: DotView;
  /** Which print it is from; null where there is one only. */
  print: number | null;
  value: number;
  /** Where it is drawn below the mean's line. */
  cy: number;
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

/** One specimen. */
function SpecimenDot({ d, print, value, cy, y, at, quantity, colour, selected, onSelect, onTouch }: SpecimenDotProps) {
  const [near, setNear] = useState(false);
  const shownAs = shownQuantity(quantity);
  const { unit } = shownAs;
  const shown = `${figure(shownAs.at(value))} ${unit}`;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={`specimen ${d.code}, ${shown}${print === null ? "" : `, print ${String(print)}`}${stateWords(d)}`}
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
      <circle cx={at(value)} cy={cy} r="12" fill="transparent" />
      <Dot dot={d} x={at(value)} y={cy} r={selected ? 6.5 : 4.6} colour={colour} />
      {near && (
        <text x={at(value)} y={y - 10} textAnchor="middle" fontSize="12.5" fontFamily="var(--mono)" fill="var(--ink)" stroke="var(--ground)" strokeWidth="3" paintOrder="stroke">
          {d.code} {shown}
          {print === null ? "" : ` · print ${String(print)}`}
          {d.reason ? ` · ${d.reason}` : ""}
        </text>
      )}
    </g>
  );
}

/** The mean with its interval. */
function MeanOf({ a, y, at, quantity, verdict }: Pick<ArmRowProps, "a" | "y" | "at" | "quantity"> & { verdict: VerdictWord }) {
  const shownAs = shownQuantity(quantity);
  const { unit } = shownAs;
  const colour = verdictColour[verdict];
  if (!a.group) return null;
  const { mean, ci95, ci95_new_batch } = a.group;
  const shown = ci95 ? shownAs.ends(ci95) : null;
  return (
    <>
      {ci95_new_batch && <Interval ci={ci95_new_batch} at={at} y={y} colour={colour} width={1.1} />}
      {ci95 && <Interval ci={ci95} at={at} y={y} colour={colour} width={3.2} />}
      <circle cx={at(mean)} cy={y} r="6" fill={colour} />
      <MeanArrow group={a.group} x={at(mean)} y={y} r={6} colour={colour} />
      <title>{`${shown ? `95 % interval ${interval(shown)} ${unit}` : a.group.n > 1 ? "no interval" : "one value: no interval"}${ci95_new_batch ? `; of these prints. Over batches: ${interval(shownAs.ends(ci95_new_batch))} ${unit} (thin line)` : ""}`}</title>
    </>
  );
}
