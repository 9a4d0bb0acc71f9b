/** Closed outlines of one view, mm. */
export type Loops = readonly (readonly (readonly [number, number])[])[];

export interface Span {
  u: readonly [number, number];
  v: readonly [number, number];
}

export interface Placed {
  /** Where a point of the view stands on the drawing. */
  at: (u: number, v: number) => { x: number; y: number };
  /** The point of the view under a place on the drawing, mm. */
  under: (x: number, y: number) => { u: number; v: number };
}

interface Room {
  x: number;
  y: number;
  w: number;
  h: number;
}

export function spanOf(loops: Loops): Span {
  const along = (axis: 0 | 1): [number, number] => {
    let [low, high] = [Infinity, -Infinity];
    for (const loop of loops)
      for (const p of loop) {
        low = Math.min(low, p[axis]);
        high = Math.max(high, p[axis]);
      }
    return [low, high];
  };
  return { u: along(0), v: along(1) };
}

/** A view with its lower left corner at (x, y) of the drawing, up growing upwards. */
export function placed(span: Span, x: number, y: number, scale: number): Placed {
  return {
    at: (u, v) => ({ x: x + (u - span.u[0]) * scale, y: y - (v - span.v[0]) * scale }),
    under: (px, py) => ({ u: span.u[0] + (px - x) / scale, v: span.v[0] + (y - py) / scale }),
  };
}

export const pathOf = (loops: Loops, at: Placed["at"]): string =>
  loops
    .map(
      (loop) =>
        `M${loop
          .map(([u, v]) => {
            const p = at(u, v);
            return `${p.x.toFixed(2)} ${p.y.toFixed(2)}`;
          })
          .join("L")}Z`,
    )
    .join("");

const wide = (s: Span) => s.u[1] - s.u[0];
const tall = (s: Span) => s.v[1] - s.v[0];

/** Two views beside one another to one scale, each in the middle of the height. */
export function sideBySide(first: Loops, second: Loops, room: Room, gap = 110): { first: Placed; second: Placed; scale: number } {
  const [a, b] = [spanOf(first), spanOf(second)];
  const scale = Math.min((room.w - gap) / (wide(a) + wide(b)), room.h / Math.max(tall(a), tall(b)));
  const left = room.x + (room.w - gap - (wide(a) + wide(b)) * scale) / 2;
  const low = (s: Span) => room.y + (room.h + tall(s) * scale) / 2;
  return { first: placed(a, left, low(a), scale), second: placed(b, left + wide(a) * scale + gap, low(b), scale), scale };
}

/** As drawings are laid out: seen from above, under it from the front, beside that from the side; all to one scale. */
export function threeViews(views: { top: Loops; front: Loops; side: Loops }, room: Room, gap: number): { top: Placed; front: Placed; side: Placed; scale: number } {
  const [t, f, s] = [spanOf(views.top), spanOf(views.front), spanOf(views.side)];
  const scale = Math.min((room.w - gap) / (wide(f) + wide(s)), (room.h - gap) / (tall(t) + tall(f)));
  const left = room.x + (room.w - gap - (wide(f) + wide(s)) * scale) / 2;
  const upper = room.y + (room.h - gap - (tall(t) + tall(f)) * scale) / 2 + tall(t) * scale;
  const lower = upper + gap + tall(f) * scale;
  return { top: placed(t, left, upper, scale), front: placed(f, left, lower, scale), side: placed(s, left + wide(f) * scale + gap, lower, scale), scale };
}
