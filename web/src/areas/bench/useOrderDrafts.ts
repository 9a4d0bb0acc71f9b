import { useLocalStorage } from "@mantine/hooks";

import type { Schemas } from "../../api/client";
import type { Print } from "./grading";
import { type Answer, type Order, ownPlaces } from "./ordering";

export interface Draft {
  way: "hand" | "pairs";
  order: Order | null;
  answers: readonly Answer[];
  /** Places that were kept, until the server tells them. */
  sent: readonly { specimenId: string; id: string; place: number }[];
}
const BLANK: Draft = { way: "hand", order: null, answers: [], sent: [] };

/** One person's orders as they lie, trait by trait: in the browser until they are kept, then as the server has them. */
export function useOrderDrafts(view: Schemas["GradingView"], person: string) {
  const [drafts, setDrafts] = useLocalStorage<Record<string, Draft>>({ key: `assayer.ordering.${view.test_id}.${person}`, defaultValue: {}, getInitialValueInEffect: false });
  const prints = view.prints.filter((p) => !p.left_out);
  const ids = prints.map((p) => p.specimen_id);
  const closed = prints.some((p) => p.complete);
  const printOf = (id: string): Print | undefined => prints.find((p) => p.specimen_id === id);
  const draftOf = (trait: string): Draft => drafts[trait] ?? BLANK;
  const placesBy = (trait: string): Map<string, number> => {
    const places = ownPlaces(prints, trait, person);
    for (const s of draftOf(trait).sent) if (!places.has(s.specimenId) && ids.includes(s.specimenId)) places.set(s.specimenId, s.place);
    return places;
  };
  const change = (trait: string, more: Partial<Draft>) => setDrafts((before) => ({ ...before, [trait]: { ...(before[trait] ?? BLANK), ...more } }));
  return { prints, ids, closed, printOf, draftOf, placesBy, change };
}
