import { useDebouncedValue } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, Problem, type Schemas, unwrap } from "../../api/client";
import { declarationsOptions } from "../../api/queries/rigs";
import { materialsOptions } from "../../api/queries/stock";
import { declarationsOfDialIn } from "../../api/queries/dialIn";
import { designOptions, studiesOptions } from "../../api/queries/studies";
import { useIds } from "../../api/useIds";
import { useDraftForm } from "../../ui/useDraftForm";
import { armsOf, crossable, factorOf, missingOf, type Kind, type PlannedArm } from "./kinds";
import { type FactorTyped, questionOf, studiedNames, withBeside } from "./sweep";
import { useCandidates } from "./Varied";

import { protocolOf, type Typed } from "./protocol";

export interface Choice {
  method: Schemas["MethodView"];
  orientation: Schemas["NewTest"]["orientation"];
}

export const keyOf = (c: Choice) => `${c.method.name} ${c.orientation}`;

/** How many specimens of each arm a planned test takes. */
export const countOf = (choice: Choice, plan: Pick<Plan, "replicates">): number => plan.replicates ?? choice.method.count;

/** On what a planned test is done: as chosen, or the first that its method is done on. */
export const shapeOf = (choice: Choice, shapes: Readonly<Record<string, string>>): string | null => shapes[choice.method.name] ?? choice.method.shapes[0]?.name ?? null;

interface Plan {
  title: string;
  question: string;
  /** Materials in the order they were taken in: the first is the reference. */
  chosen: string[];
  /** The spool each is printed from; null for none named, absent until one was proposed. */
  spools: Record<string, string | null>;
  /** Tests by method and orientation. */
  tests: string[];
  /** What they are done on where it is not the method's first shape. */
  shapes: Record<string, string>;
  /** How tests are set otherwise than delivered, as typed. */
  protocols: Typed;
  /** Of each arm in every test; null for what the standard of each asks for. */
  replicates: number | null | undefined;
  spares: number | null | undefined;
  /** What differs between the arms. */
  studied: Kind;
  /** Of one material: treatments as typed; spools, printers or rigs in the order they were taken in. */
  treatments: string[];
  picked: string[];
  factors: FactorTyped[];
  kind: Schemas["DesignQuestion"]["kind"];
  halvings: number | null | undefined;
  runs: number | null | undefined;
  /** In per cent of the reference's mean; null for each test's own. */
  margin: number | null | undefined;
}

/** A study as it is being planned, and making it. */
export function useNewStudy() {
  const materials = useQuery(materialsOptions());
  const declared = useQuery(declarationsOptions());
  const navigate = useNavigate();
  const queries = useQueryClient();
  // each arm and test keeps its id: pressed again after an answer that was lost, it is the same study
  const ids = useIds();
  const draft = useDraftForm<Plan>("assayer.form.study", { initialValues: { title: "", question: "", chosen: [], spools: {}, tests: ["tension flat", "tension upright"], shapes: {}, protocols: {}, replicates: null, spares: 0, margin: null, studied: "material", treatments: [""], picked: [], factors: [{ name: null, typed: "" }], kind: "all combinations", halvings: 1, runs: 8 } });
  const { form, id } = draft;
  const [problem, setProblem] = useState<{ field: string | undefined; text: string } | null>(null);
  const [busy, setBusy] = useState(false);
  const plan = form.values;
  const items = materials.data?.items ?? [];
  const methods = (declared.data?.methods ?? []).filter((m) => m.own === null || m.own.offered);
  const dialIn = useQuery(declarationsOfDialIn());
  const numbers = (dialIn.data?.settings ?? []).filter((s) => s.kind === "number");
  const design = useDesign(plan);
  const chosen = plan.chosen.flatMap((m) => items.filter((i) => i.id === m));
  const choices: Choice[] = methods.flatMap((method) => method.orientations.map((orientation) => ({ method, orientation })));
  const planned = choices.filter((c) => plan.tests.includes(keyOf(c)));
  const candidates = useCandidates(plan.studied, chosen[0]?.id, planned.map((c) => c.method.name));
  const named = plan.picked.flatMap((key) => candidates.filter((c) => c.id === key));
  const arms = armsOf(plan.studied, chosen, { runs: design.runs, treatments: plan.treatments, named });
  const create = async () => {
    setBusy(true);
    try {
      const study = unwrap<Schemas["StudyView"]>(await client.POST("/api/studies", { body: bodyOf(id, ids.of, plan, chosen, arms, planned) }));
      draft.forget();
      await queries.invalidateQueries({ queryKey: studiesOptions().queryKey });
      await navigate({ to: "/studies/$studyId/print", params: { studyId: study.id } });
    } catch (error) {
      setProblem({ field: error instanceof Problem ? error.field : undefined, text: messageOf(error) });
    } finally {
      setBusy(false);
    }
  };
  const wrong = [plan.replicates, plan.spares, plan.margin, ...(plan.studied === "setting" ? [plan.halvings, plan.runs] : [])].includes(undefined);
  const missing = missingOf({ wrong, title: plan.title, kind: plan.studied, materials: chosen.length, arms: arms.length, tests: planned.length });
  const ready = missing === "";
  return { form, draft, candidates, factor: factorOf(plan.studied, chosen), missing, items, loaded: materials.data !== undefined, numbers, design, methods, arms, planned, problem, busy, ready, create };
}

export type NewStudy = ReturnType<typeof useNewStudy>;

/** The runs that the settings as typed make, by name; none until they are whole. */
function useDesign(plan: Plan) {
  const whole = plan.halvings != null && plan.runs != null;
  const told = plan.studied === "setting" && whole ? questionOf(plan.factors, plan.factors.length > 1 ? plan.kind : "all combinations", plan.halvings ?? 1, plan.runs ?? 2) : null;
  // a number that is half typed is no question yet
  const [settled] = useDebouncedValue(JSON.stringify(told), 350);
  const question = JSON.stringify(told) === settled ? told : null;
  const asked = useQuery({ ...designOptions(question ?? NO_QUESTION), enabled: question !== null });
  const names = question?.factors.map((f) => f.name) ?? [];
  const found = question === null || asked.isError ? undefined : asked.data;
  const runs = (found?.runs ?? []).filter((run) => run.length === names.length).map((run) => withBeside(Object.fromEntries(run.map((v, i) => [names[i] ?? "", v])), plan.factors));
  return { runs, aliases: found?.aliases ?? [], problem: question !== null && asked.isError ? messageOf(asked.error) : null };
}

const NO_QUESTION: Schemas["DesignQuestion"] = { kind: "all combinations", factors: [], halvings: 1, runs: 2, seed: 1 };

function bodyOf(id: string, idOf: (what: string) => string, plan: Plan, chosen: readonly Schemas["MaterialView"][], arms: readonly PlannedArm[], planned: Choice[]): Schemas["NewStudy"] {
  return {
    id,
    title: plan.title,
    question: plan.question,
    studied_factor: factorOf(plan.studied, chosen),
    studied_settings: plan.studied === "setting" ? studiedNames(plan.factors) : [],
    each_at_best: false,
    crosses_materials: crossable(plan.studied) && new Set(arms.map((a) => a.material.id)).size > 1,
    settings: "as printed",
    arms: arms.map((a, i) => ({ id: idOf(`arm ${String(i)}`), material_id: a.material.id, treatment: a.treatment, spool_id: a.spool ?? plan.spools[a.material.id] ?? null, printer_id: a.printer, rig_id: a.rig, sheet_id: null, settings: a.settings })),
    tests: planned.map((c, i) => ({
      id: idOf(`test ${String(i)}`),
      method: c.method.name,
      orientation: c.orientation,
      shape: shapeOf(c, plan.shapes),
      protocol: protocolOf(c.method, plan.protocols),
      replicates: countOf(c, plan),
      spares: plan.spares ?? 0,
      margin: plan.margin == null ? null : plan.margin / 100,
      margin_relative: true,
    })),
  };
}
