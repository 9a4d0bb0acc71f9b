import { Progress } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";

import { count } from "../../ui/format";
import { recomputingOptions } from "../../api/queries/rigs";

/** While a correction of a rig is sent: how many of its runs were reduced anew so far. */
export function Recomputing({ rigVersionId, busy }: { rigVersionId: string; busy: boolean }) {
  const far = useQuery(recomputingOptions(rigVersionId, busy));
  const { done, of } = (busy && far.data) || { done: 0, of: 0 };
  return (
    <div role="status">
      {of > 0 && (
        <>
          <p style={{ margin: "0 0 6px" }}>
            {done} of {count(of, "run")} reduced anew … others go on working meanwhile
          </p>
          <Progress value={(100 * done) / of} aria-label="runs reduced anew" />
        </>
      )}
    </div>
  );
}
