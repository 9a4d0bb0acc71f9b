import { useLocalStorage } from "@mantine/hooks";

import type { Schemas } from "../../api/client";
import { newId } from "../../api/ids";
import type { Trial } from "./words";

/** The trial that would come next from another one: shown, and made by the server with its first entry. */
export function unplanned(trail: Schemas["TrailView"], parent: Trial, id: string): Trial {
  return {
    id, number: Math.max(...trail.trials.map((t) => t.number)) + 1, parent_id: parent.id, sheet_id: parent.sheet_id, part: parent.part, spool_id: parent.spool_id, spool_code: parent.spool_code, outcome: "planned", revision: 0,
    changes: [], series: null, control: null, printed_at: null, who: "", failed_at: null, failed_band: null, minutes: null, room: null, humidity: null, total_mass: null, brim_mass: null, support_mass: null, waste: null, lift: null,
    symptoms: [], tested: "", removal: "", bond: "", filaments: [], while_running: [], note: "", decision: "", grades: {}, far: {}, apart: {}, by_grader: [], bands: [], windows: [], photos: [],
  }; // prettier-ignore
}

/** Whether the server does not know a trial yet. */
export const isUnplanned = (t: Trial): boolean => t.revision === 0;

/** The ids that next trials are to have, by the trial they come from: the same after a reload, so that what was typed of one stays with it. */
export function useNextIds(trailId: string) {
  const [ids, setIds] = useLocalStorage<Record<string, string>>({ key: `assayer.next.${trailId}`, defaultValue: {}, getInitialValueInEffect: false });
  const begin = (parent: Trial) => setIds((before) => (before[parent.id] ? before : { ...before, [parent.id]: newId() }));
  const forget = (id: string) => setIds((before) => Object.fromEntries(Object.entries(before).filter(([, own]) => own !== id)));
  return { ids, begin, forget };
}
