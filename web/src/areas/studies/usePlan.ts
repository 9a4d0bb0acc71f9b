import { useLocalStorage } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { declarationsOptions } from "../../api/queries/rigs";
import { materialsOptions } from "../../api/queries/stock";
import { boardOptions, studyOptions } from "../../api/queries/studies";
import { protocolOf, type Typed } from "./protocol";
import { type Choice, keyOf, shapeOf } from "./useNewStudy";

type Study = Schemas["StudyView"];

/** What is planned besides, until it is kept. */
interface More {
  materials: string[];
  tests: string[];
  shapes: Record<string, string>;
  protocols: Typed;
  /** By test, as typed: empty or wrong while it cannot be planned so. */
  replicates: Record<string, number | null | undefined>;
  spares: Record<string, number | null | undefined>;
}

interface Params {
  path: { study_id: string };
  header: { "if-match": string };
}

type Told = Pick<Study, "title" | "question" | "put_away_at"> & { arms: readonly { id: string }[]; tests: readonly { id: string; replicates: number; spares: number }[] };

/** What a study plans, whatever was measured of it. */
const planOf = (s: Told): string => JSON.stringify([s.title, s.question, s.put_away_at, s.arms.map((a) => a.id), s.tests.map((t) => [t.id, t.replicates, t.spares])]);

const NOTHING: More = { materials: [], tests: [], shapes: {}, protocols: {}, replicates: {}, spares: {} };

/** The plan of a study, what is added to it, and keeping that. */
export function usePlan(study: Study) {
  const materials = useQuery(materialsOptions());
  const declared = useQuery(declarationsOptions());
  const board = useQuery(boardOptions(study.id));
  // kept until the server has taken it: a reload loses nothing
  const [more, setMore, forgetMore] = useLocalStorage<More>({ key: `assayer.plan.${study.id}`, defaultValue: NOTHING, getInitialValueInEffect: false, sync: false });
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [reason, setReason] = useState("");
  const queries = useQueryClient();
  const there = new Set(study.arms.filter((a) => !a.treatment).map((a) => a.material.id));
  const chosen = (materials.data?.items ?? []).filter((m) => more.materials.includes(m.id));
  const offered = (materials.data?.items ?? []).filter((m) => !there.has(m.id) && !more.materials.includes(m.id));
  const choices: Choice[] = (declared.data?.methods ?? []).filter((m) => m.own === null || m.own.offered).flatMap((method) => method.orientations.map((orientation) => ({ method, orientation })));
  const taken = new Set([...study.tests.map((t) => `${t.method} ${t.orientation}`), ...more.tests]);
  const usual = Math.max(3, ...study.tests.map((t) => t.replicates));
  const wanted = (t: Study["tests"][number]) => more.replicates[t.id] ?? t.replicates;
  const raised = Object.fromEntries(study.tests.filter((t) => wanted(t) > t.replicates).map((t) => [t.id, wanted(t)]));
  const wrong = [...Object.values(more.replicates), ...Object.values(more.spares)].some((n) => n == null);
  const otherSpares = Object.fromEntries(Object.entries(more.spares).flatMap(([id, n]) => (n != null && study.tests.some((t) => t.id === id && t.spares !== n) ? [[id, n] as const] : [])));
  const specimens =
    study.tests.reduce((sum, t) => sum + study.arms.length * (wanted(t) - t.replicates) + chosen.length * wanted(t), 0) + more.tests.length * (study.arms.length + chosen.length) * usual;
  const attempt = async (act: (params: Params) => Promise<Study>) => {
    setBusy(true);
    try {
      // the revision is of the data too: a specimen tested meanwhile is no other plan
      const now = await queries.fetchQuery({ ...studyOptions(study.id), staleTime: 0 });
      if (planOf(now) !== planOf(study)) throw new Error("The plan was changed by somebody else: it is shown as it is now. Look at it, then try again.");
      queries.setQueryData(studyOptions(study.id).queryKey, await act({ path: { study_id: study.id }, header: { "if-match": `"${String(now.revision)}"` } }));
      refresh(queries, "/api/studies", "/api/studies/{study_id}", "/api/studies/{study_id}/board", "/api/tests/{test_id}/findings", "/api/purposes");
      setProblem(null);
      return true;
    } catch (error) {
      setProblem(messageOf(error));
      void queries.invalidateQueries({ queryKey: studyOptions(study.id).queryKey });
      return false;
    } finally {
      setBusy(false);
    }
  };
  const bodyOf = (): Schemas["StudyExtension"] => ({
    arms: more.materials.map((material_id) => ({ id: newId(), material_id, treatment: "", spool_id: null, printer_id: null, rig_id: null, sheet_id: null, settings: {} })),
    tests: choices
      .filter((c) => more.tests.includes(keyOf(c)))
      .map((c) => ({ id: newId(), method: c.method.name, orientation: c.orientation, shape: shapeOf(c, more.shapes), protocol: protocolOf(c.method, more.protocols), replicates: usual, spares: 0, margin: null, margin_relative: true })),
    replicates: raised,
    spares: otherSpares,
    settings: study.arms[0]?.settings ?? "as printed",
    reason,
  });
  const extend = async () => {
    const kept = await attempt(async (params) => unwrap<Study>(await client.POST("/api/studies/{study_id}/extension", { params, body: bodyOf() })));
    if (kept) {
      forgetMore();
      setReason("");
    }
  };
  const edit = (body: Partial<Schemas["StudyEdit"]>) => attempt(async (params) => unwrap<Study>(await client.PATCH("/api/studies/{study_id}", { params, body: { reason: "", targets: {}, margins: {}, ...body } })));
  return {
    board: board.data, chosen, offered, choices, untaken: choices.filter((c) => !taken.has(keyOf(c))), planned: choices.filter((c) => more.tests.includes(keyOf(c))),
    reason, setReason, more, setMore, usual, wanted, wrong, specimens, changed: specimens > 0 || Object.keys(otherSpares).length > 0, problem, busy, extend, edit, forget: forgetMore,
  }; // prettier-ignore
}

export type Planned = ReturnType<typeof usePlan>;

/** The plan once more, or a part of it, as a study of its own. */
export function useCopy(study: Study) {
  const [id] = useState(() => newId());
  const [title, setTitle] = useState(`${study.title}, again`.slice(0, 160));
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [problem, setProblem] = useState<string | null>(null);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const toggle = (key: string) => setLeft(new Set(left.has(key) ? [...left].filter((k) => k !== key) : [...left, key]));
  const keptOf = (all: readonly { id: string }[]) => all.map((x) => x.id).filter((key) => !left.has(key));
  const [arm_ids, test_ids] = [keptOf(study.arms), keptOf(study.tests)];
  const make = async () => {
    try {
      const copy = unwrap<Study>(await client.POST("/api/studies/{study_id}/copies", { params: { path: { study_id: study.id } }, body: { id, title, arm_ids, test_ids } }));
      refresh(queries, "/api/studies");
      await navigate({ to: "/studies/$studyId/plan", params: { studyId: copy.id } });
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return { title, setTitle, left, toggle, problem, make, ready: title.trim() !== "" && arm_ids.length > 0 && test_ids.length > 0 };
}
