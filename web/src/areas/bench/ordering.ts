import { gradeBy, type Print } from "./grading";

/** Prints from the first to the last; those that lie together share their place. */
export type Order = readonly (readonly string[])[];

/** What was said of two prints. */
export interface Answer {
  better: "left" | "right" | "neither";
}

/** Places from 1; prints between which no difference is seen share the mean of theirs. */
export function placesOf(order: Order): Map<string, number> {
  const places = new Map<string, number>();
  let before = 0;
  for (const group of order) {
    for (const id of group) places.set(id, before + (group.length + 1) / 2);
    before += group.length;
  }
  return places;
}

/** The order that places tell, for the prints that have one. */
export function orderOf(places: ReadonlyMap<string, number>): Order {
  const steps = [...new Set(places.values())].sort((a, b) => a - b);
  return steps.map((step) => [...places].filter(([, place]) => place === step).map(([id]) => id));
}

/** A draft as it fits the prints there are: what is gone falls out, what is new lies at the end. */
export function fitted(order: Order, ids: readonly string[]): Order {
  const kept = order.map((group) => group.filter((id) => ids.includes(id))).filter((group) => group.length > 0);
  const known = new Set(kept.flat());
  return [...kept, ...ids.filter((id) => !known.has(id)).map((id) => [id])];
}

/** A print taken out and laid down alone so that it is the `to`-th group. */
export function movedTo(order: Order, id: string, to: number): Order {
  const without = order.map((group) => group.filter((x) => x !== id));
  const emptied = without.findIndex((group, i) => group.length === 0 && (order[i]?.length ?? 0) > 0);
  const rest = without.filter((group) => group.length > 0);
  const at = Math.max(0, Math.min(rest.length, emptied < 0 && to > order.findIndex((g) => g.includes(id)) ? to + 1 : to));
  return [...rest.slice(0, at), [id], ...rest.slice(at)];
}

/** Laid together with the group before it, or parted from those it lies with, behind them. */
export function joined(order: Order, id: string): Order {
  const at = order.findIndex((group) => group.includes(id));
  const group = order[at] ?? [];
  if (group.length > 1) return [...order.slice(0, at), group.filter((x) => x !== id), [id], ...order.slice(at + 1)];
  const before = order[at - 1];
  return before ? [...order.slice(0, at - 1), [...before, id], ...order.slice(at + 1)] : order;
}

export interface Pairing {
  order: Order;
  /** The two that are compared next: left is the print that is being placed. */
  next: readonly [left: string, right: string] | null;
  /** Comparisons that are still to come, at most. */
  left: number;
}

/** Order by comparing two at a time: each print is placed among those before it by halving, so that few are asked for. */
export function byPairs(ids: readonly string[], answers: readonly Answer[]): Pairing {
  let order: string[][] = [];
  let asked = 0;
  for (const [k, id] of ids.entries()) {
    let low = 0;
    let high = order.length;
    let same: number | null = null;
    while (low < high && same === null) {
      const middle = Math.floor((low + high) / 2);
      const answer = answers[asked];
      const other = order[middle]?.[0];
      if (other === undefined) break;
      if (!answer) return { order, next: [id, other], left: steps(high - low) + ids.slice(k + 1).reduce((sum, _, i) => sum + steps(order.length + 1 + i), 0) };
      asked += 1;
      if (answer.better === "neither") same = middle;
      else if (answer.better === "left") high = middle;
      else low = middle + 1;
    }
    const found = same;
    order = found === null ? [...order.slice(0, low), [id], ...order.slice(low)] : order.map((group, i) => (i === found ? [...group, id] : group));
  }
  return { order, next: null, left: 0 };
}

const steps = (groups: number) => Math.ceil(Math.log2(groups + 1));

/** The places that a person has given the prints by one trait. */
export function ownPlaces(prints: readonly Print[], trait: string, person: string): Map<string, number> {
  const found = new Map<string, number>();
  for (const p of prints) {
    const place = gradeBy({ grades: p.places }, trait, person);
    if (place !== null) found.set(p.specimen_id, place);
  }
  return found;
}

/** The readings that a person's order by one trait was kept in. */
export const keptReadings = (prints: readonly Print[], trait: string, person: string): { run: string; id: string }[] =>
  prints.flatMap((p) => p.places.filter((x) => x.trait === trait && x.grader === person).map((x) => ({ run: p.run_id ?? "", id: x.id })));
