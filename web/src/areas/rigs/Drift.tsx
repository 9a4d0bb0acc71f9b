import { Select } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { driftOptions, rigsOptions } from "../../api/queries/rigs";
import { materialsOptions } from "../../api/queries/stock";
import { DriftLine } from "../../figures/DriftLine";
import { FigureFrame } from "../../figures/FigureFrame";
import { count, onDay } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import { shownQuantity } from "../../ui/units";

/** Whether the rig has moved: its reference material from study to study, and other rigs to hold it against. */
export function Drift({ rig }: { rig: Schemas["RigView"] }) {
  const drift = useQuery(driftOptions(rig.rig_id));
  const navigate = useNavigate();
  const charts = drift.data?.charts ?? [];
  return (
    <section aria-label="Drift">
      <h2>Drift</h2>
      <Reference rig={rig} />
      {charts.map((c) => {
        const shown = shownQuantity(c.quantity);
        const label = [c.quantity.label, shown.unit].filter(Boolean).join(", ");
        return (
          <FigureFrame key={`${c.test} ${c.end} ${c.quantity.name}`} title={<span style={{ fontSize: "1rem" }}>{[c.test, c.end].filter(Boolean).join(" · ")}: {driftWords(c)}</span>} name={`${rig.name} ${c.quantity.label} drift`} rows={() => [["day", "study", "n", label, "signal"], ...c.points.map((p) => [p.on, p.study, p.n, shown.at(p.mean), p.signal ?? ""])]}>
            <DriftLine points={c.points.map((p) => ({ ...p, mean: shown.at(p.mean), day: onDay(p.on) }))} centre={c.centre === null ? null : shown.at(c.centre)} limits={c.limits && shown.ends(c.limits)} label={label} onOpen={(i) => { const p = c.points[i]; if (p) void navigate({ to: "/studies/$studyId/findings", params: { studyId: p.study_id }, search: { test: p.test_id } }); }} />
          </FigureFrame>
        );
      })}
      {drift.data?.material && charts.length === 0 && <p className="soft">It was not measured in two studies on this rig yet: put it into every study, printed in the same way.</p>}
      <AgainstAnother rig={rig} />
    </section>
  );
}

function driftWords(c: Schemas["DriftChart"]): string {
  if (c.missing > 0) return `${count(c.points.length, "study", "studies")}; limits after ${count(c.missing, "more study", "more studies")}`;
  const signals = c.points.filter((p) => p.signal !== null);
  const last = signals.at(-1);
  return last ? `the rig has moved: ${onDay(last.on)} lies ${last.signal === "beyond 3 s" ? "beyond 3 s" : `with ${last.signal ?? ""}`}` : `no drift over ${count(c.points.length, "study", "studies")}`;
}

function Reference({ rig }: { rig: Schemas["RigView"] }) {
  const queries = useQueryClient();
  const materials = useQuery(materialsOptions());
  const [problem, setProblem] = useState<string | null>(null);
  const choose = async (id: string | null) => {
    try {
      unwrap<Schemas["RigPage"]>(await client.PATCH("/api/rigs/{rig_id}", { params: { path: { rig_id: rig.rig_id } }, body: { reference_material_id: id } }));
      setProblem(null);
      refresh(queries, "/api/rigs/{rig_id}", "/api/rigs", "/api/rigs/{rig_id}/drift", "/api/studies/{study_id}/doubts");
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <>
      <Select label="Reference material" description="tested on this rig in every study; its means show whether the rig has moved" placeholder="none yet" w={380} maw="100%" searchable clearable clearButtonProps={{ "aria-label": "No reference material" }} nothingFoundMessage="No such material" data={(materials.data?.items ?? []).map((m) => ({ value: m.id, label: `${m.maker} ${m.product}, ${m.colour}` }))} value={rig.reference_material_id} onChange={(id) => void choose(id)} mb="sm" />
      <Refusal text={problem} />
    </>
  );
}

/** Rigs that share a method with this one. */
function AgainstAnother({ rig }: { rig: Schemas["RigView"] }) {
  const rigs = useQuery(rigsOptions());
  const others = (rigs.data?.items ?? []).filter((r) => r.rig_id !== rig.rig_id && r.methods.some((m) => rig.methods.includes(m)));
  if (!others.length) return null;
  return (
    <p>
      Against another rig:{" "}
      {others.map((r, i) => (
        <span key={r.id}>
          {i > 0 && ", "}
          <Link to="/rigs/$rigId/against/$otherId" params={{ rigId: rig.rig_id, otherId: r.rig_id }}>
            {r.name}
          </Link>
        </span>
      ))}
    </p>
  );
}
