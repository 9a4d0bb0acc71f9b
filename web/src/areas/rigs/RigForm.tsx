import { Button, Select, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";

/** The first rig: what its display shows, so that entries need no unit. */
export function RigForm() {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [force, setForce] = useState<string | null>("N");
  const [length, setLength] = useState<string | null>("mm");
  const [compliance, setCompliance] = useState("0");
  const [problem, setProblem] = useState<string | null>(null);
  const add = async () => {
    try {
      unwrap<Schemas["RigView"]>(
        await client.POST("/api/rigs", {
          body: {
            id: newId(),
            version_id: newId(),
            name,
            force_unit: force ?? "N",
            force_step: 0.1,
            length_unit: length ?? "mm",
            length_step: 0.01,
            compliance: Number(compliance.replace(",", ".")),
            capacity: null,
            valid_from: null,
          },
        }),
      );
      await queries.invalidateQueries({ queryKey: ["rigs"] });
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <form
      className="page"
      style={{ maxWidth: 460, display: "grid", gap: 12 }}
      onSubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <h1>Which rig pulls?</h1>
      <p className="soft" style={{ margin: 0 }}>
        Results belong to the rig they were measured on. Name it, and say what its displays show.
      </p>
      <TextInput label="Name of the rig" value={name} onChange={(e) => setName(e.currentTarget.value)} required maxLength={80} />
      <Select label="Its force display shows" value={force} onChange={setForce} data={["N", "kN", "kgf", "gf", "lbf"]} allowDeselect={false} />
      <Select label="The calliper shows" value={length} onChange={setLength} data={["mm", "1/100 mm", "in"]} allowDeselect={false} />
      <TextInput label="Compliance of the frame, mm/N" description="0 if it is not known: strain then counts the frame's own give" value={compliance} onChange={(e) => setCompliance(e.currentTarget.value)} />
      {problem && (
        <p role="alert" style={{ color: "var(--worse)", margin: 0 }}>
          {problem}
        </p>
      )}
      <Button type="submit">Use this rig</Button>
    </form>
  );
}
