/** The thing whose place is nearest to a point, within a distance; null where none is. */
export function nearest<T>(things: readonly T[], placeOf: (thing: T, index: number) => readonly [number, number], point: readonly [number, number], within: number): T | null {
  let found: T | null = null;
  let least = within;
  things.forEach((thing, i) => {
    const [x, y] = placeOf(thing, i);
    const distance = Math.hypot(x - point[0], y - point[1]);
    if (distance <= least) [found, least] = [thing, distance];
  });
  return found;
}

/** Where a pointer is, in the coordinates of the drawing that an element is part of. */
export function pointIn(element: SVGGraphicsElement, e: { clientX: number; clientY: number }): [number, number] {
  const matrix = element.getScreenCTM()?.inverse();
  if (!matrix) return [0, 0];
  const { x, y } = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix);
  return [x, y];
}
