import type { Schemas } from "../../api/client";
import { Bar } from "./Bar";
import { Block } from "./Block";
import { CreepFrame } from "./CreepFrame";
import { type Geometry, H, shareAt, W } from "./geometry";
import { NotchedBar } from "./NotchedBar";
import { Outline } from "./Outline";
import { PullBar } from "./PullBar";
import { TorsionRod } from "./TorsionRod";

export interface DrawingProps {
  shape: Schemas["ShapeView"];
  orientation: string;
  /** Where it broke, 0 left to 1 right. */
  place: number | null;
  /** A touch on the specimen: where, 0 left to 1 right. */
  onTouch?: ((place: number) => void) | undefined;
  /** Where the calliper goes and how far the gauge section reaches; without, a plain picture. */
  arrows?: boolean;
  /** On two supports, with a weight in the middle. */
  supported?: boolean;
  /** Without the space above and below, where more stands under it: the share of the height that is kept. */
  crop?: number;
  /** Numbered places, one for each reading that is usual, such as indents. */
  marks?: number;
  /** Arrows whose reading is in doubt: "above-0", "below-2". */
  doubted?: ReadonlySet<string> | undefined;
  /** With its lengths, for a method's card. */
  dimensioned?: boolean;
}

const FAMILIES: Record<string, (props: DrawingProps) => React.ReactNode> = { "pull bar": PullBar, bar: Bar, block: Block, "creep frame": CreepFrame, "notched bar": NotchedBar, "torsion rod": TorsionRod };

/** The specimen as it lies on the bench, by the family of its shape. */
export function Drawing(props: DrawingProps & { className?: string | undefined }) {
  const crop = props.crop ?? 1;
  const Family = FAMILIES[props.shape.family] ?? Outline;
  return (
    <svg viewBox={`0 ${(H - H * crop) / 2} ${W} ${H * crop}`} className={props.className} role="img" aria-label={`${props.shape.label}, ${props.orientation}`}>
      <Family {...props} />
    </svg>
  );
}

/** A length between two points, with its figure. */
export function Dimension({ x1, x2, y, text, upright = false }: { x1: number; x2: number; y: number; text: string; upright?: boolean }) {
  const line = upright ? `M${y - 8} ${x1}h16M${y} ${x1}V${x2}M${y - 8} ${x2}h16` : `M${x1} ${y - 8}v16M${x1} ${y}H${x2}M${x2} ${y - 8}v16`;
  const mid = (x1 + x2) / 2;
  return (
    <g>
      <path d={line} stroke="var(--soft)" strokeWidth="1.3" fill="none" />
      <text x={upright ? y + 12 : mid} y={upright ? mid + 5 : y - 8} textAnchor={upright ? "start" : "middle"} fontSize="23" fill="var(--ink)" stroke="var(--surface)" strokeWidth="5" paintOrder="stroke">
        {text}
      </text>
    </g>
  );
}

/** Where a calliper goes, from the entries above and from those below. */
export function Arrows({ columns, half, crop = 1, doubted }: { columns: readonly number[]; half: number; crop?: number | undefined; doubted: DrawingProps["doubted"] }) {
  const start = 58 + (H - H * crop) / 2;
  const ink = (side: string, i: number) => {
    const colour = doubted?.has(`${side}-${String(i)}`) ? "var(--caution)" : "var(--accent)";
    return { stroke: colour, fill: colour };
  };
  return columns.map((x, i) => (
    <g key={x}>
      <g {...ink("above", i)}>
      <path d={`M${x} ${Math.min(start, H / 2 - half - 10)}V${H / 2 - half - 10}`} strokeDasharray="4 4" strokeWidth="1.6" />
      <path d={`M${x - 5} ${H / 2 - half - 11}h10l-5 9z`} stroke="none" />
      </g>
      <g {...ink("below", i)}>
      <path d={`M${x} ${Math.max(H - start, H / 2 + half + 10)}V${H / 2 + half + 10}`} strokeDasharray="4 4" strokeWidth="1.6" />
      <path d={`M${x - 5} ${H / 2 + half + 11}h10l-5 -9z`} stroke="none" />
      </g>
    </g>
  ));
}

/** A jagged line where it broke. */
export function Break({ x, half }: { x: number; half: number }) {
  return (
    <path
      d={`M${x} ${H / 2 - half}l9 ${half * 0.45}l-14 ${half * 0.45}l12 ${half * 0.5}l-9 ${half * 0.6}`}
      fill="none"
      stroke="var(--worse)"
      strokeWidth="4"
      strokeLinejoin="round"
    />
  );
}

/** The place of a touch along the specimen, from a mouse event on its outline: 0 at its left end to 1 at its right. */
export function placeOf(e: React.MouseEvent<SVGElement>, geometry: Geometry): number | null {
  const box = e.currentTarget.ownerSVGElement?.getBoundingClientRect();
  return box ? shareAt(geometry, ((e.clientX - box.left) / box.width) * W) : null;
}
