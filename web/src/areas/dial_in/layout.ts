import type { Trial } from "./words";

export interface Placed {
  trial: Trial;
  column: number;
  row: number;
  /** On the way from the first trial to the one that counts. */
  main: boolean;
}

/** The trial that the trail has come to: the accepted one, else the last that was kept. */
export function headOf(trials: readonly Trial[], accepted: string | null): Trial | undefined {
  const standing = trials.filter((t) => t.outcome !== "planned" && t.outcome !== "failed" && t.outcome !== "stopped" && t.decision !== "drop" && !t.control && !t.series);
  return trials.find((t) => t.id === accepted) ?? standing.at(-1) ?? trials.at(-1);
}

/** Where each trial stands: generations from left to right, the main way in the first row, each branch in the first row with room for it. */
export function placed(trials: readonly Trial[], head: Trial | undefined): Placed[] {
  const byId = new Map(trials.map((t) => [t.id, t]));
  const main = new Set<string>();
  for (let t = head; t; t = t.parent_id ? byId.get(t.parent_id) : undefined) main.add(t.id);
  const children = new Map<string | null, Trial[]>();
  for (const t of trials) {
    const parent = t.parent_id !== null && byId.has(t.parent_id) ? t.parent_id : null;
    children.set(parent, [...(children.get(parent) ?? []), t]);
  }
  const childrenOf = (t: Trial) => [...(children.get(t.id) ?? [])].sort((a, b) => Number(main.has(b.id)) - Number(main.has(a.id)) || a.number - b.number);
  const found: Placed[] = [];
  const taken = new Set<string>();
  const lay = (first: Trial, column: number, from: number): void => {
    // a branch runs on in its row by its first children
    const chain = [first];
    for (let next = childrenOf(first)[0]; next; next = childrenOf(next)[0]) chain.push(next);
    let row = from;
    while (chain.some((_, i) => taken.has(`${String(column + i)},${String(row)}`))) row++;
    chain.forEach((t, i) => {
      taken.add(`${String(column + i)},${String(row)}`);
      found.push({ trial: t, column: column + i, row, main: main.has(t.id) });
    });
    // from the right, so that ways down do not cross the branches of what comes later
    chain.map((t, i) => [t, i] as const).reverse().forEach(([t, i]) => childrenOf(t).slice(1).forEach((child) => lay(child, column + i + 1, row + 1)));
  };
  for (const first of children.get(null) ?? []) lay(first, 0, 0);
  return found;
}
