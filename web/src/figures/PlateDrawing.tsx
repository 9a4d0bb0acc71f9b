import type { Schemas } from "../api/client";

type Layout = Schemas["PlateLayout"];
type Piece = Layout["pieces"][number];
type Kind = Layout["kinds"][number];

/** What is said of a place: words on it, how it came off, and what a touch does. */
export interface PlaceMark {
  words: string;
  label: string;
  state?: "good" | "lost" | "tested" | undefined;
}

interface PlateDrawingProps {
  layout: Layout;
  /** CSS pixels. */
  width: number;
  label: string;
  /** By position; without them the places carry their numbers. */
  marks?: ReadonlyMap<number, PlaceMark>;
  onTouch?: ((position: number, element: Element) => void) | undefined;
  /** Show only where something lies. @default false */
  close?: boolean;
}

/** The part of the bed on which something lies, and a little around it; y as drawn, downwards. */
function occupied(layout: Layout): [number, number, number, number] {
  const kinds = new Map(layout.kinds.map((k) => [k.kind, k]));
  const boxes = layout.pieces.map((p) => {
    const k = kinds.get(p.kind);
    const [w, d] = p.turned ? [k?.depth ?? 0, k?.width ?? 0] : [k?.width ?? 0, k?.depth ?? 0];
    return [p.x - w / 2, layout.bed.depth - p.y - d / 2, p.x + w / 2, layout.bed.depth - p.y + d / 2] as const;
  });
  const [x0, y0] = [Math.min(...boxes.map((b) => b[0])) - ROOM, Math.min(...boxes.map((b) => b[1])) - ROOM];
  return [x0, y0, Math.max(...boxes.map((b) => b[2])) + ROOM - x0, Math.max(...boxes.map((b) => b[3])) + ROOM - y0];
}

const ROOM = 6;
/** Pixels to a millimetre, at most. */
const CLOSEST = 4;

/** A build plate from above, to scale, its front below: what lies where, and what is kept free. */
export function PlateDrawing({ layout, width, label, marks, onTouch, close = false }: PlateDrawingProps) {
  const { bed } = layout;
  const [x, y, wide, deep] = close ? occupied(layout) : [0, 0, bed.width, bed.depth];
  const drawn = Math.min(width, wide * CLOSEST);
  const unit = wide / drawn;
  const kinds = new Map(layout.kinds.map((k) => [k.kind, k]));
  const inner = { x: bed.margin, y: bed.margin, width: bed.width - 2 * bed.margin, height: bed.depth - 2 * bed.margin };
  return (
    <svg viewBox={[x, y, wide, deep].join(" ")} width={drawn} height={deep / unit} role={onTouch ? "group" : "img"} aria-label={label} style={{ display: "block", maxWidth: "100%" }}>
      <rect width={bed.width} height={bed.depth} fill="var(--raised)" stroke="var(--ink)" strokeWidth={1.5 * unit} />
      <rect {...inner} fill="none" stroke="var(--line)" strokeWidth={unit} strokeDasharray={`${String(4 * unit)} ${String(3 * unit)}`} />
      {bed.keep_out.map(([x0 = 0, y0 = 0, x1 = 0, y1 = 0]) => (
        <rect key={[x0, y0, x1, y1].join()} x={Math.min(x0, x1)} y={bed.depth - Math.max(y0, y1)} width={Math.abs(x1 - x0)} height={Math.abs(y1 - y0)} fill="var(--line)" stroke="var(--soft)" strokeWidth={unit}>
          <title>nothing is laid here</title>
        </rect>
      ))}
      {layout.pieces.map((piece) => {
        const kind = kinds.get(piece.kind);
        return kind && <Place key={piece.position} piece={piece} kind={kind} depth={bed.depth} unit={unit} mark={marks?.get(piece.position)} onTouch={onTouch} />;
      })}
    </svg>
  );
}

const FILL = { good: "var(--surface)", lost: "none", tested: "var(--line)" } as const;

function Place({ piece, kind, depth, unit, mark, onTouch }: { piece: Piece; kind: Kind; depth: number; unit: number; mark: PlaceMark | undefined; onTouch: PlateDrawingProps["onTouch"] }) {
  const [w, d] = piece.turned ? [kind.depth, kind.width] : [kind.width, kind.depth];
  const path = kind.outline.map((loop) => `M${loop.map(([x, y]) => (piece.turned ? `${String(-y)} ${String(-x)}` : `${String(x)} ${String(-y)}`)).join("L")}Z`).join("");
  const state = mark?.state ?? "good";
  const acts = onTouch && state !== "tested";
  const size = Math.max(8 * unit, Math.min(13 * unit, d * 0.8));
  const words = mark?.words ?? String(piece.position);
  // what is written is wider than it is high
  const upright = w < d && w < words.length * size * 0.6;
  const room = Math.min(size, (upright ? d : Math.max(w, 3 * size)) / (words.length * 0.62));
  return (
    <g
      transform={`translate(${String(piece.x)} ${String(depth - piece.y)})`}
      {...(onTouch ? { role: "button", tabIndex: acts ? 0 : -1, "aria-label": mark?.label ?? words, "aria-disabled": !acts, "aria-haspopup": "dialog" as const, "data-position": piece.position } : {})}
      style={acts ? { cursor: "pointer" } : undefined}
      onClick={acts ? (e) => onTouch(piece.position, e.currentTarget) : undefined}
      onKeyDown={
        acts
          ? (e) => {
              if (e.key !== "Enter" && e.key !== " ") return;
              e.preventDefault();
              onTouch(piece.position, e.currentTarget);
            }
          : undefined
      }
    >
      <title>{mark?.label ?? `${String(piece.position)}: ${piece.kind}${piece.spare ? ", a spare" : ""}`}</title>
      {kind.brim > 0 && <rect x={-w / 2 - kind.brim} y={-d / 2 - kind.brim} width={w + 2 * kind.brim} height={d + 2 * kind.brim} rx={kind.brim} fill="none" stroke="var(--soft)" strokeWidth={0.8 * unit} strokeDasharray={`${String(2 * unit)} ${String(2 * unit)}`} />}
      {acts && <rect x={-Math.max(w, 24 * unit) / 2} y={-Math.max(d, 24 * unit) / 2} width={Math.max(w, 24 * unit)} height={Math.max(d, 24 * unit)} fill="transparent" />}
      <path d={path} fillRule="evenodd" fill={FILL[state]} stroke={state === "lost" ? "var(--worse)" : "var(--ink)"} strokeWidth={1.3 * unit} strokeDasharray={piece.spare || state === "lost" ? `${String(4 * unit)} ${String(2.5 * unit)}` : undefined} />
      <text y={room * 0.36} transform={upright ? "rotate(-90)" : undefined} textAnchor="middle" fontSize={room} fontFamily="var(--mono)" fontWeight={700} fill={state === "lost" ? "var(--worse)" : "var(--ink)"} textDecoration={state === "lost" ? "line-through" : undefined}>
        {words}
      </text>
    </g>
  );
}
