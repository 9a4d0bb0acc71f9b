import type { Schemas } from "../../api/client";

type State = Schemas["QueueItem"]["state"];

/** How many are done, of how many: those that were left out are in neither, and told apart. */
export function counted(states: readonly State[]): { tested: number; total: number; leftOut: number } {
  const leftOut = states.filter((s) => s === "left_out").length;
  const open = states.filter((s) => s === "waiting" || s === "measured").length;
  return { tested: states.length - leftOut - open, total: states.length - leftOut, leftOut };
}
