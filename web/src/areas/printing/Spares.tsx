import { Button } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { Refusal } from "../../ui/Notes";
import { ArmSwatch } from "../../ui/Swatch";
import css from "./printing.module.css";
import { AFTER_PRINTING } from "./surroundings";

/** Replicates that were left out, where a spare lies ready to take their place. */
export function Spares({ study, spares }: { study: Schemas["StudyView"]; spares: readonly Schemas["SpareView"][] }) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const take = async (spare: Schemas["SpareView"]) => {
    try {
      unwrap(await client.PUT("/api/slots/{slot_id}/specimen", { params: { path: { slot_id: spare.slot_id } }, body: { specimen_id: spare.specimen_id } }));
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
    refresh(queries, ...AFTER_PRINTING);
  };
  if (!spares.length && !problem) return null;
  return (
    <section aria-label="Spares" className={css.spares}>
      {spares.map((spare) => {
        const arm = study.arms.find((a) => a.id === spare.arm_id);
        const test = study.tests.find((t) => t.id === spare.test_id);
        return (
          <p key={spare.slot_id}>
            {arm && <ArmSwatch arm={arm} size={24} />} {test?.label}, {test?.orientation}: number {spare.number} was left out, and the spare <span className="figure">{spare.code}</span> lies ready.{" "}
            <Button size="compact-sm" onClick={() => void take(spare)}>
              {spare.code} takes its place
            </Button>
          </p>
        );
      })}
      <Refusal text={problem} />
    </section>
  );
}
