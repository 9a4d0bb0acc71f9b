import { useQueries } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";

import { capital } from "../../ui/format";
import type { Schemas } from "../../api/client";
import { findingsOptions } from "../../api/queries/studies";
import { DotInterval } from "../../figures/DotInterval";
import { FigureFrame } from "../../figures/FigureFrame";
import { ordered } from "./order";
import { specimenRows } from "./tables";

/** The same test of the same study printed in other orientations, as far as there is something to see of it. */
export function useOtherOrientations(findings: Schemas["Findings"], tests: readonly Schemas["TestView"][]): readonly Schemas["Findings"][] {
  const { test, quantity } = findings;
  const others = tests.filter((t) => t.id !== test.id && t.method === test.method && t.label === test.label && t.orientation !== test.orientation);
  const found = useQueries({ queries: others.map((t) => findingsOptions(t.id, { quantity: quantity.name, reference: findings.reference_arm_id ?? undefined })) });
  return found.flatMap((f) => (f.data?.quantity.name === quantity.name && f.data.arms.some((a) => a.dots.length) ? [f.data] : []));
}

/** Beside the chosen orientation, on the same scale: what the other ones bear. */
export function OtherOrientation({ findings, order, beside, onOpen }: { findings: Schemas["Findings"]; order: string; beside: readonly Schemas["FindingArm"][]; onOpen: (specimenId: string | null, runId: string) => void }) {
  const { test, quantity, study } = findings;
  return (
    <FigureFrame
      title={
        <>
          {capital(quantity.label)},{" "}
          <Link to="/studies/$studyId/findings" params={{ studyId: study.id }} search={{ test: test.id, quantity: quantity.name }}>
            {test.orientation}
          </Link>
        </>
      }
      name={`${test.label} ${quantity.name} ${test.orientation}`}
      about={{ kind: "study", name: study.title }}
      rows={() => specimenRows(findings)}
    >
      <DotInterval groups={ordered(findings.arms, order, quantity.good_side)} also={beside} referenceId={findings.reference_arm_id} quantity={quantity} selected={null} onSelect={onOpen} />
    </FigureFrame>
  );
}
