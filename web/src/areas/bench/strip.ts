/**
 * The part of a queue that fits beside the work: two behind the one at hand, then what still waits, in the queue's
 * order; places left over go to what was done next to it. So that what comes next is always there to be touched,
 * however far ahead the random order put it.
 */
export function strip<T>(items: T[], at: number, waits: (item: T) => boolean, size = 12): T[] {
  const places = items.map((_, i) => i);
  const nearest = (chosen: number[]) => chosen.sort((a, b) => Math.abs(a - at) - Math.abs(b - at) || a - b);
  const around = places.filter((i) => i <= at && i >= at - 2);
  const ahead = places.filter((i) => i > at && waits(items[i] as T));
  const rest = nearest(places.filter((i) => !around.includes(i) && !ahead.includes(i)));
  const kept = [...around, ...ahead, ...rest].slice(0, size);
  return kept.sort((a, b) => a - b).map((i) => items[i] as T);
}
