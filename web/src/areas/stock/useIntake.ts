import { useDebouncedValue } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import type { Sending } from "../../api/entries";
import { outbox } from "../../api/outbox";
import { dossierOptions, intakePreviewOptions, refreshStock } from "../../api/queries/stock";
import { TOLERANCE } from "../../figures/DiameterStrip";
import { readNumber } from "../../ui/number";
import type { Asked } from "../../ui/Questions";
import { useAsking } from "../../ui/useAsking";
import { bodyOf, dedupe, newSpool, trialOf } from "./intake";
import { useIntakeDraft } from "./useIntakeDraft";

interface IntakeOf {
  materials: Schemas["MaterialView"][];
  asked: { material?: string; spool?: string };
  spool: Schemas["SpoolPage"] | undefined;
}

/** The sheet of one spool: what is filled in, what the server makes of it and asks, and keeping it. */
export function useIntake({ materials, asked, spool }: IntakeOf) {
  const { draft, set, clear } = useIntakeDraft(asked.material ?? spool?.material_id, asked.spool);
  const asking = useAsking();
  const [busy, setBusy] = useState(false);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const material = materials.find((m) => m.id === draft.materialId);
  const dossier = useQuery({ ...dossierOptions(draft.materialId), enabled: Boolean(material) });
  const label = readNumber(draft.label) ?? spool?.label_net ?? dossier.data?.material.net_mass ?? null;
  const [slow] = useDebouncedValue(draft, 120);
  const preview = useQuery({ ...intakePreviewOptions(trialOf(slow, label)), enabled: Boolean(slow.materialId) });
  const seen = preview.data;
  const questions = dedupe([...asking.questions, ...(seen?.questions ?? [])]).filter((q) => !draft.confirmed.includes(q.key));
  const errorOf = (field: string) => (asking.problem?.field === field ? asking.problem.text : (seen?.errors.find((e) => e.field === field)?.text ?? null));
  const send = async (entry: Extract<Sending, { kind: "intake" | "spool" }>) => {
    if (busy || !material) return;
    setBusy(true);
    await asking.attempt(async () => {
      const code = spool?.code ?? `${material.maker} ${material.product}${draft.lot ? `, lot ${draft.lot}` : ""}`;
      const went = await outbox.deliver({ ...entry, code, added_at: Date.now() });
      clear();
      refreshStock(queries);
      await (went === "kept" ? navigate({ to: "/unsent" }) : navigate({ to: "/stock/spools/$spoolId", params: { spoolId: draft.spoolId || draft.newSpoolId } }));
    });
    setBusy(false);
  };
  const keep = () => send({ kind: "intake", body: bodyOf(draft, readNumber(draft.label) ?? null) });
  const later = () => send({ kind: "spool", body: newSpool(draft, readNumber(draft.label) ?? null) });
  const answer = (q: Asked, likely: string) => {
    asking.drop(q);
    if (q.field === "diameters" && q.row !== null) set({ diameters: draft.diameters.map((d, i) => (i + 1 === q.row ? likely : d)) });
    else if (q.field === "received_on") set({ received: likely });
    else if (q.field === "gross") set({ gross: likely });
    else if (q.field === "empty") set({ empty: likely });
  };
  return {
    draft, set, clear, material, materials, spool, seen, label, questions, errorOf, busy, keep, later, answer, problem: asking.problem?.text ?? null,
    labelNet: dossier.data?.material.net_mass ?? null,
    nominal: dossier.data?.material.diameter ?? 1.75,
    tolerance: dossier.data?.window.tolerance ?? TOLERANCE,
  }; // prettier-ignore
}

export type Intake = ReturnType<typeof useIntake>;

/** What every part of the sheet is given; `next` leads on from a field. */
export interface PartProps {
  intake: Intake;
  next: (from: HTMLElement) => void;
}
