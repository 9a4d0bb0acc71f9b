import { useForm } from "@mantine/form";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, Problem, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { declarationsOptions } from "../../api/queries/rigs";
import { materialsOptions } from "../../api/queries/stock";
import { studiesOptions } from "../../api/queries/studies";

export interface Choice {
  method: Schemas["MethodView"];
  orientation: Schemas["NewTest"]["orientation"];
}

export const keyOf = (c: Choice) => `${c.method.name} ${c.orientation}`;

interface Plan {
  title: string;
  question: string;
  /** Materials in the order they were taken in: the first is the reference. */
  chosen: string[];
  /** The spool each is printed from; null for none named, absent until one was proposed. */
  spools: Record<string, string | null>;
  /** Tests by method and orientation. */
  tests: string[];
  replicates: number;
  /** In per cent of the reference's mean; null for each test's own. */
  margin: number | null;
}

/** A study as it is being planned, and making it. */
export function useNewStudy() {
  const materials = useQuery(materialsOptions());
  const declared = useQuery(declarationsOptions());
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [id] = useState(() => newId());
  const form = useForm<Plan>({ initialValues: { title: "", question: "", chosen: [], spools: {}, tests: ["tension flat", "tension upright"], replicates: 5, margin: null } });
  const [problem, setProblem] = useState<{ field: string | undefined; text: string } | null>(null);
  const [busy, setBusy] = useState(false);
  const plan = form.values;
  const items = materials.data?.items ?? [];
  const methods = declared.data?.methods ?? [];
  const arms = plan.chosen.flatMap((m) => items.filter((i) => i.id === m));
  const choices: Choice[] = methods.flatMap((method) => method.orientations.map((orientation) => ({ method, orientation })));
  const planned = choices.filter((c) => plan.tests.includes(keyOf(c)));
  const create = async () => {
    setBusy(true);
    try {
      const study = unwrap<Schemas["StudyView"]>(await client.POST("/api/studies", { body: bodyOf(id, plan, planned) }));
      await queries.invalidateQueries({ queryKey: studiesOptions().queryKey });
      await navigate({ to: "/studies/$studyId/print", params: { studyId: study.id } });
    } catch (error) {
      setProblem({ field: error instanceof Problem ? error.field : undefined, text: messageOf(error) });
    } finally {
      setBusy(false);
    }
  };
  const ready = plan.title.trim() !== "" && arms.length > 0 && planned.length > 0;
  return { form, items, loaded: materials.data !== undefined, methods, arms, planned, problem, busy, ready, create };
}

export type NewStudy = ReturnType<typeof useNewStudy>;

function bodyOf(id: string, plan: Plan, planned: Choice[]): Schemas["NewStudy"] {
  return {
    id,
    title: plan.title,
    question: plan.question,
    studied_factor: "material",
    studied_settings: [],
    each_at_best: false,
    settings: "as printed",
    arms: plan.chosen.map((material_id) => ({ id: newId(), material_id, treatment: "", spool_id: plan.spools[material_id] ?? null, sheet_id: null, settings: {} })),
    tests: planned.map((c) => ({
      id: newId(),
      method: c.method.name,
      orientation: c.orientation,
      shape: c.method.shapes[0]?.name ?? null,
      protocol: {},
      replicates: plan.replicates,
      margin: plan.margin === null ? null : plan.margin / 100,
      margin_relative: true,
    })),
  };
}
