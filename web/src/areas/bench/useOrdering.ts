import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { announce } from "../../ui/announce";
import { type Answer, byPairs, fitted, joined, keptReadings, movedTo, type Order, orderOf, placesOf } from "./ordering";
import { useGiving } from "./useGiving";
import { type Draft, useOrderDrafts } from "./useOrderDrafts";

const NO_TRAIT: Schemas["GradedTrait"] = { name: "", label: "", steps: [], better: true, caution: "", place_field: "" };

/** One person's order of the prints by one trait after another, laid by hand or by pairs; kept place by place. */
export function useOrdering(view: Schemas["GradingView"], person: string, rig: string) {
  const { runOf, give, close } = useGiving(view, person, rig);
  const { prints, ids, closed, printOf, draftOf, placesBy, change: put } = useOrderDrafts(view, person);
  const [notice, setNotice] = useState<string | null>(null);
  const [asked, setAsked] = useState(false);
  const open = view.traits.filter((t) => placesBy(t.name).size === 0);
  const [name, setName] = useState(() => (open[0] ?? view.traits[0] ?? NO_TRAIT).name);
  const [chosen, choosePrint] = useState<string | null>(null);
  const trait = view.traits.find((t) => t.name === name) ?? view.traits[0] ?? NO_TRAIT;
  const draft = draftOf(trait.name);
  const places = placesBy(trait.name);
  const kept = places.size > 0;
  const pairing = byPairs(ids, draft.answers);
  const order = kept ? orderOf(places) : fitted(draft.order ?? [], ids);
  const flat = order.flat();
  const here = chosen !== null && flat.includes(chosen) ? chosen : (flat[0] ?? "");

  const change = (more: Partial<Draft>) => {
    setNotice(null);
    setAsked(false);
    put(trait.name, more);
  };
  const lay = (next: Order, id: string) => {
    if (kept) return setNotice("your order is kept: U takes it back");
    change({ order: next });
    choosePrint(id);
    announce(`${printOf(id)?.code ?? ""}: place ${String(placesOf(next).get(id) ?? "")}`);
  };
  const go = (by: number) => choosePrint(flat[Math.max(0, Math.min(flat.length - 1, flat.indexOf(here) + by))] ?? here);
  const shift = (by: number) => {
    const at = order.findIndex((g) => g.includes(here));
    const shared = (order[at]?.length ?? 0) > 1;
    lay(shared && by > 0 ? joined(order, here) : movedTo(order, here, shared ? at : at + by), here);
  };
  const answer = (better: Answer["better"]) => {
    const answers = [...draft.answers, { better }];
    const after = byPairs(ids, answers);
    if (after.next) return change({ answers });
    change({ answers, order: after.order, way: "hand" });
    setNotice(`${String(answers.length)} ${answers.length === 1 ? "comparison" : "comparisons"} led to this order: Enter keeps it`);
  };
  const keep = () => {
    if (closed) return setNotice("the grading is closed: nothing more is given");
    setAsked(true);
    if (draft.order === null && !asked) return setNotice("nothing was moved yet: Enter again keeps the prints as they lie");
    const sent = [...placesOf(order)].map(([specimenId, place]) => ({ specimenId, id: newId(), place }));
    change({ order, sent });
    for (const s of sent) {
      const print = printOf(s.specimenId);
      if (print) void give(print, runOf(print), s.id, trait.place_field, s.place);
    }
    announce(`the order by ${trait.label} is kept`);
  };
  const choose = (other: string) => {
    setName(other);
    setNotice(null);
    setAsked(false);
    choosePrint(null);
  };
  const takeBack = useTakingBack();
  const undo = async () => {
    if (!kept) return draft.way === "pairs" && draft.answers.length ? change({ answers: draft.answers.slice(0, -1) }) : setNotice("nothing was kept yet");
    if (closed) return setNotice("the grading is closed: the order stays");
    const own = keptReadings(prints, trait.name, person);
    if (own.length < places.size) return setNotice("the order has not reached the server yet: it can be taken back once it has");
    const problem = await takeBack(own);
    if (problem === null) change({ order, sent: [], way: "hand" });
    setNotice(problem ?? "the order was taken back: change it, and Enter keeps it anew");
  };
  return {
    prints, printOf, trait, draft, order, kept, pairing, here, notice, choose, choosePrint, go, shift, lay, answer, keep, undo,
    places: kept ? places : placesOf(order), missing: kept ? ids.length - places.size : 0, last: open.every((t) => t.name === trait.name),
    done: (of: string) => placesBy(of).size,
    join: () => lay(joined(order, here), here),
    // a round of pairs that was gone through begins anew
    turn: (way: Draft["way"]) => change({ way, answers: pairing.next ? draft.answers : [] }),
    nextTrait: () => choose(open.find((t) => t.name !== trait.name)?.name ?? trait.name),
    close: () => close(prints),
  }; // prettier-ignore
}

export type Ordering = ReturnType<typeof useOrdering>;

/** Takes places out of the record again, one after another; says what went wrong. */
function useTakingBack() {
  const queries = useQueryClient();
  return async (places: readonly { run: string; id: string }[]): Promise<string | null> => {
    try {
      for (const one of places) unwrap<Schemas["RunView"]>(await client.PUT("/api/runs/{run_id}/readings/{reading_id}/retraction", { params: { path: { run_id: one.run, reading_id: one.id } } }));
      return null;
    } catch (error) {
      return messageOf(error);
    } finally {
      refresh(queries, "/api/tests/{test_id}/grading");
    }
  };
}
