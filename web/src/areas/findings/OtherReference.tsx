import { Button } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { count, onDay } from "../../ui/format";
import { Refusal } from "../../ui/Notes";

/** Where the arms are compared with another one than the study's reference: what it is, and the ways to keep it or to go back. */
export function OtherReference({ findings, onReference }: { findings: Schemas["Findings"]; onReference: (armId: string) => void }) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const shown = findings.arms.find((a) => a.arm.id === findings.reference_arm_id);
  const { id, revision, reference_arm_id: usual } = findings.study;
  const isUsual = findings.reference_arm_id === usual;
  const earlier = shown?.earlier;
  if (!shown || (isUsual && !earlier)) return null;
  const take = async () => {
    try {
      unwrap<Schemas["StudyView"]>(await client.PUT("/api/studies/{study_id}/reference", { params: { path: { study_id: id }, header: { "if-match": `"${String(revision)}"` } }, body: { reference_arm_id: shown.arm.id } }));
      setProblem(null);
      await queries.invalidateQueries();
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const days = earlier ? Math.round((Date.now() - Date.parse(earlier.on)) / 864e5) : 0;
  return (
    <p style={{ margin: "0.2rem 0 0.6rem" }}>
      {earlier ? (
        <>
          Compared with an arm of another study,{" "}
          <Link to="/studies/$studyId/findings" params={{ studyId: earlier.study_id }} search={{ test: earlier.test_id }}>
            {earlier.study}
          </Link>
          , tested {onDay(earlier.on)}, {count(days, "day")} ago{earlier.differs.length > 0 && `: ${earlier.differs.join(", ")}, so there are no verdicts`}.{" "}
        </>
      ) : (
        <>Compared with {shown.name}, which is not the study’s reference. </>
      )}
      {!isUsual && (
        <>
          <Button size="compact-sm" variant="subtle" onClick={() => void take()}>
            Make it the study’s reference
          </Button>
          {usual && (
            <Button size="compact-sm" variant="subtle" onClick={() => onReference(usual)}>
              Back to the study’s
            </Button>
          )}
        </>
      )}
      <Refusal text={problem} />
    </p>
  );
}
