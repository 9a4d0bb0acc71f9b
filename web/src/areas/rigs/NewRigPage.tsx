import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { declarationsOptions } from "../../api/queries/rigs";
import { ErrorNote, Waiting } from "../../ui/Notes";
import type { RigFacts } from "./facts";
import { RigForm } from "./RigForm";

/** A new rig: name, what it tests, what its displays show. */
export function NewRigPage() {
  const { method } = useSearch({ from: "/rigs/new" });
  const declared = useQuery(declarationsOptions());
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [ids] = useState(() => ({ id: newId(), version_id: newId() }));
  const [problem, setProblem] = useState<string | null>(null);
  if (declared.isError) return <ErrorNote error={declared.error} again={() => void declared.refetch()} />;
  if (!declared.data) return <Waiting what="Reading what can be tested …" />;
  const save = async (facts: RigFacts, name: string, methods: string[], onKept: () => void) => {
    try {
      const rig = unwrap<Schemas["RigView"]>(await client.POST("/api/rigs", { body: { ...ids, ...facts, name, methods } }));
      onKept();
      refresh(queries, "/api/rigs", "/api/racks", "/api/bench");
      await navigate({ to: "/rigs/$rigId", params: { rigId: rig.rig_id } });
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <div className="page">
      <Link to="/rigs" className="soft">
        Rigs &amp; methods
      </Link>
      <h1>A new rig</h1>
      <p className="soft" style={{ maxWidth: 640 }}>
        Results belong to the rig they were measured on, and results of unlike rigs stay apart. Say what its displays show: entries then need no unit.
      </p>
      <RigForm declared={declared.data} method={method} problem={problem} onSave={(facts, name, methods, onKept) => void save(facts, name, methods, onKept)} />
    </div>
  );
}
