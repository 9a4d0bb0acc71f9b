import type { Schemas } from "../api/client";

type Doubt = Schemas["DoubtView"];

/** The doubts that nobody has settled yet. */
export const unsettled = (doubts: readonly Doubt[]): Doubt[] => doubts.filter((d) => d.state !== "settled");

/** Of the unsettled doubts, those that are about an arm in a test; `test` null: about arms as such. */
export const doubtsAbout = (doubts: readonly Doubt[], arm: string, test: string | null): Doubt[] =>
  unsettled(doubts).filter((d) => (d.test_id === null || d.test_id === test) && (d.arm_ids.includes(arm) || (d.arm_ids.length === 0 && d.test_id !== null)));

/** How many are open, in words: "2 open, 1 being tested again, 3 settled". */
export function stateWords(doubts: readonly Doubt[]): string {
  const count = (state: Doubt["state"]) => doubts.filter((d) => d.state === state).length;
  const parts = [
    [count("open"), "open"],
    [count("retest"), "being tested again"],
    [count("settled"), "settled"],
  ] as const;
  return parts.filter(([n]) => n).map(([n, words]) => `${String(n)} ${words}`).join(", ") || "nothing";
}

/** For a cell of a table: what is unsettled about an arm in a test. */
export const doubtWords = (doubts: readonly Doubt[], arm: string, test: string): string =>
  doubtsAbout(doubts, arm, test)
    .map((d) => d.text)
    .join("; ");

/** In few words, for the board: what kinds of doubt there are about an arm in a test. */
export const doubtKinds = (doubts: readonly Doubt[]): string => [...new Set(doubts.map((d) => d.kind))].join(", ");
