import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { outbox } from "../../api/outbox";
import { announce } from "../../ui/announce";
import { gradeBy, nextUngraded, withKept } from "./grading";
import { useGiving } from "./useGiving";

interface Kept {
  specimenId: string;
  runId: string;
  code: string;
  id: string;
  trait: string;
  grader: string;
  grade: number;
}

/** One person's grading: where it stands, what was given, and keeping each grade by way of the outbox. */
export function useGrading(view: Schemas["GradingView"], person: string, rig: string) {
  const queries = useQueryClient();
  const { runOf, give, close } = useGiving(view, person, rig);
  const [kept, setKept] = useState<readonly Kept[]>([]);
  const [notice, setNotice] = useState<string | null>(null);
  const prints = withKept(view.prints.filter((p) => !p.left_out), kept);
  const open = (name: string) => prints.some((p) => gradeBy(p, name, person) === null);
  const [name, setName] = useState(() => view.traits.find((t) => open(t.name))?.name ?? view.traits[0]?.name ?? "");
  const trait = view.traits.find((t) => t.name === name) ?? view.traits[0] ?? { name: "", label: "", steps: [], better: true, caution: "", place_field: "" };
  const [at, setAt] = useState(() => nextUngraded(prints, name, person, -1));
  const here = Math.min(at, prints.length - 1);
  const last = view.traits.every((t) => t.name === trait.name || !open(t.name));

  const grade = (given: number) => {
    const print = prints[here];
    if (!print) return;
    if (print.complete) return setNotice(`the grading of ${print.code} is closed`);
    const before = gradeBy(print, trait.name, person);
    if (before !== null) return setNotice(before === given ? `${print.code} has ${String(given)} already` : `${print.code} has ${String(before)} from you: U takes the last grade back`);
    setNotice(null);
    const one: Kept = { specimenId: print.specimen_id, runId: runOf(print), code: print.code, id: newId(), trait: trait.name, grader: person, grade: given };
    const next = withKept(prints, [...kept, one]);
    setKept([...kept, one]);
    setAt(nextUngraded(next, trait.name, person, here));
    announce(`${print.code}: ${String(given)}, ${trait.steps[given] ?? ""}`);
    void give(print, one.runId, one.id, trait.name, given);
  };
  const undo = async () => {
    const one = kept.at(-1);
    if (!one) return setNotice("nothing was given in this sitting yet");
    try {
      if (!(await outbox.withdraw(one.runId))) unwrap<Schemas["RunView"]>(await client.PUT("/api/runs/{run_id}/readings/{reading_id}/retraction", { params: { path: { run_id: one.runId, reading_id: one.id } } }));
      setKept(kept.slice(0, -1));
      setName(one.trait);
      setAt(Math.max(0, prints.findIndex((p) => p.specimen_id === one.specimenId)));
      setNotice(`the grade of ${one.code} was taken back`);
      refresh(queries, "/api/tests/{test_id}/grading");
    } catch (error) {
      setNotice(messageOf(error));
    }
  };
  const choose = (other: string) => {
    setName(other);
    setAt(nextUngraded(prints, other, person, -1));
    setNotice(null);
  };
  const nextTrait = () => {
    if (open(trait.name)) return setNotice("some prints are not graded yet");
    const next = view.traits.find((t) => t.name !== trait.name && open(t.name));
    if (next) choose(next.name);
    else void close(prints);
  };
  const move = (by: number) => setAt((here + by + prints.length) % prints.length);
  const done = (of: string) => prints.filter((p) => gradeBy(p, of, person) !== null).length;
  return { prints, trait, here, last, notice, grade, undo, choose, nextTrait, move, go: setAt, done };
}

export type Grading = ReturnType<typeof useGrading>;
