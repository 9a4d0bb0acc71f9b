import { useState } from "react";

import { client, Problem, type Schemas, unwrap } from "../../api/client";
import type { Asked } from "../../ui/Questions";
import type { Member } from "./round";
import type { Round } from "./useRound";

/** Ending a run on a rack: what it still lacks is asked first, then its end is kept. */
export function useEnding(rack: Schemas["RackView"], round: Round, onEnded: () => void) {
  const [open, setOpen] = useState<{ outcome: string; question: Asked } | null>(null);
  const keep = async (member: Member, outcome: string | null, confirmed: string[]) => {
    await round.end(member, outcome, confirmed);
    setOpen(null);
    onEnded();
  };
  const end = async (member: Member, outcome: string | null) => {
    const question = outcome === null ? undefined : (await lacking(rack, member, outcome))[0];
    if (question && outcome !== null) setOpen({ outcome, question });
    else await keep(member, outcome, []);
  };
  const confirm = (member: Member) => (open ? keep(member, open.outcome, [open.question.key]) : Promise.resolve());
  return { question: open?.question ?? null, end, confirm, forget: () => setOpen(null) };
}

/** What the server asks of a run that is to end so; nothing while it does not answer: it asks when the entry reaches it. */
async function lacking(rack: Schemas["RackView"], member: Member, outcome: string): Promise<Asked[]> {
  const body: Schemas["PreviewRequest"] = { test_id: member.test_id, rig_version_id: rack.rig_version_id, specimen_id: member.specimen_id ?? "", run_id: member.run_id, readings: [], curve_id: null, outcome, blind: true, complete: true, confirmed: [] };
  try {
    return unwrap<Schemas["Preview"]>(await client.POST("/api/previews", { body })).questions;
  } catch (error) {
    if (error instanceof Problem && error.unreachable) return [];
    throw error;
  }
}
