import { useQueryClient } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "../../api/client";
import { takeTrail } from "../../api/queries/dialIn";
import { useIds } from "../../api/useIds";
import { isUnplanned } from "./nextTrial";
import type { Trial } from "./words";

type TrailView = Schemas["TrailView"];

/** What is done to the trials of a trail; each answers with the trail as it stands then. */
export function useTrail() {
  const queries = useQueryClient();
  const ids = useIds();
  const took = (trail: TrailView): TrailView => {
    takeTrail(queries, trail);
    return trail;
  };
  // a trial that is only shown is made with its first entry; sent again it is the same one
  const plan = async (t: Trial): Promise<number> => {
    const trail = unwrap<TrailView>(await client.POST("/api/trials", { body: { id: t.id, parent_id: t.parent_id ?? "", changes: {} } }));
    return trail.trials.find((made) => made.id === t.id)?.revision ?? 1;
  };
  const path = (t: Trial) => ({ path: { trial_id: t.id } });
  return {
    next: (parent: Trial, more: Partial<Schemas["NewTrial"]> = {}) =>
      ids.sent(`next ${parent.id} ${JSON.stringify(more)}`, async (id) => took(unwrap<TrailView>(await client.POST("/api/trials", { body: { id, parent_id: parent.id, changes: {}, ...more } })))),
    record: async (t: Trial, told: Partial<Schemas["TrialRecord"]>) => {
      const revision = isUnplanned(t) ? await plan(t) : t.revision;
      return took(unwrap<TrailView>(await client.PATCH("/api/trials/{trial_id}", { params: { ...path(t), header: { "if-match": `"${String(revision)}"` } }, body: { grades: [], changes: {}, confirmed: [], ...told } })));
    },
    plan: async (t: Trial) => {
      const trail = unwrap<TrailView>(await client.POST("/api/trials", { body: { id: t.id, parent_id: t.parent_id ?? "", changes: {} } }));
      return took(trail);
    },
    grade: async (t: Trial, grades: Schemas["GradeIn"][]) => took(unwrap<TrailView>(await client.POST("/api/trials/{trial_id}/grades", { params: path(t), body: { grades } }))),
    retract: async (t: Trial, back = false) => took(unwrap<TrailView>(await client.PUT("/api/trials/{trial_id}/retraction", { params: { ...path(t), query: { back } } }))),
    accept: async (t: Trial, back = false) => took(unwrap<TrailView>(await client.PUT("/api/trials/{trial_id}/acceptance", { params: { ...path(t), query: { back } } }))),
    dry: (t: Trial) => ids.sent(`dry ${t.id}`, async (repeat_id) => took(unwrap<TrailView>(await client.POST("/api/trials/{trial_id}/drying", { params: { ...path(t), query: { repeat_id } } })))),
    calibrate: async (body: Schemas["NewDialCalibration"]) => took(unwrap<TrailView>(await client.POST("/api/dial-calibrations", { body }))),
  };
}
