import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";

type Doubt = Schemas["DoubtView"];

/** Deciding on the doubts of a study, with what went wrong. */
export function useDoubts(studyId: string) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const attempt = async (change: () => Promise<unknown>) => {
    if (busy) return false;
    setBusy(true);
    try {
      await change();
      setProblem(null);
      return true;
    } catch (error) {
      setProblem(messageOf(error));
      return false;
    } finally {
      setBusy(false);
      refresh(queries, "/api/studies/{study_id}/doubts", "/api/studies/{study_id}", "/api/studies/{study_id}/board", "/api/bench", "/api/tests/{test_id}/findings");
    }
  };
  const decide = (id: string, doubt: Doubt, body: Pick<Schemas["NewDecision"], "kind" | "note" | "specimens">) =>
    attempt(async () =>
      unwrap<Schemas["DecisionView"]>(
        await client.POST("/api/studies/{study_id}/doubts/decisions", { params: { path: { study_id: studyId } }, body: { id, doubt: doubt.key, evidence: doubt.text, arm_ids: body.kind === "retest" ? doubt.retest_arm_ids : [], ...body } }),
      ),
    );
  const open = (decision: Schemas["DecisionView"]) =>
    attempt(async () =>
      unwrap<Schemas["DecisionView"]>(await client.PATCH("/api/doubts/decisions/{decision_id}", { params: { path: { decision_id: decision.id }, header: { "if-match": `"${String(decision.revision)}"` } }, body: { retracted: true } })),
    );
  return { problem, busy, decide, open };
}
