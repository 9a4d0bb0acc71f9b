import { Button, Progress } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { outdatedOptions } from "../../api/queries/rigs";
import { Refusal } from "../../ui/Notes";
import { Moved } from "./Moved";

/** Results that an earlier version of the program computed: they are not averaged with new ones until they are recomputed. */
export function Outdated() {
  const queries = useQueryClient();
  const [busy, setBusy] = useState(false);
  const [moved, setMoved] = useState<Schemas["MovedList"] | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const { runs, done, of } = useQuery(outdatedOptions(busy)).data ?? { runs: 0, done: 0, of: 0 };
  const recompute = async () => {
    setBusy(true);
    try {
      setMoved(unwrap<Schemas["MovedList"]>(await client.POST("/api/recomputing")));
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    } finally {
      setBusy(false);
      void queries.invalidateQueries();
    }
  };
  if (moved && !problem) return <Moved list={moved} />;
  if (!runs && !busy) return null;
  return (
    <section aria-label="Results of earlier rules" style={{ margin: "0 0 1rem" }}>
      <p style={{ margin: "0 0 0.5rem" }}>
        {runs} {runs === 1 ? "run was" : "runs were"} computed by earlier rules of this program: they are shown apart from new ones until they are recomputed. Readings stay as they are.{" "}
        <Button size="xs" variant="default" loading={busy} onClick={() => void recompute()}>
          Recompute and list what changes
        </Button>
      </p>
      {of > 0 && <Progress value={(100 * done) / of} aria-label={`${String(done)} of ${String(of)} runs recomputed`} />}
      <Refusal text={problem} />
    </section>
  );
}
