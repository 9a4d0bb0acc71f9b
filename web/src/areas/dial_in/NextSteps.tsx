import { Button, Select } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { nextOptions } from "../../api/queries/dialIn";
import { messageOf } from "../../api/client";
import { ErrorNote, Refusal } from "../../ui/Notes";
import css from "./trail.module.css";
import type { Trial } from "./words";
import { valueWords } from "./words";
import { useTrail } from "./useTrail";

type Candidate = Schemas["CandidateView"];

interface NextStepsProps {
  trail: Schemas["TrailView"];
  from: Trial;
  symptoms: readonly Schemas["SymptomView"][];
  onPlanned: (number: number) => void;
}

const OFF = new Set<Candidate["state"]>(["beyond the printer", "not for this polymer", "is so already", "not in the sheet", "printed or planned already", "failed there"]);

/** What to try against what is graded lowest, one thing at a time, each with its reason and its price. */
export function NextSteps({ trail, from, symptoms, onPlanned }: NextStepsProps) {
  const [picked, setPicked] = useState<string | null>(null);
  const next = useQuery(nextOptions(trail.id, from.id, picked ?? undefined));
  const { next: plan, dry } = useTrail();
  const [problem, setProblem] = useState<string | null>(null);
  if (next.isError) return <ErrorNote error={next.error} again={() => void next.refetch()} />;
  const told = next.data;
  const about = told?.symptom ?? null;
  const open = told?.candidates.find((c) => !OFF.has(c.state) && c.state !== "tried, no help");
  const attempt = async (c: Candidate) => {
    setProblem(null);
    try {
      const change = c.after === null ? null : { value: c.after, source: "trial" as const, regions: [] };
      const after = c.action ? await dry(from) : await plan(from, { changes: { [c.setting]: change } });
      onPlanned(after.trials.at(-1)?.number ?? from.number);
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <aside className={css.next} aria-label="What to try next">
      <h2>What to try next</h2>
      <p>
        {about ? (
          <>
            {picked ? "against" : told?.grade !== null ? "lowest grade:" : "reported:"} <strong>{about.label}</strong>
            {told?.grade !== null && `, ${String(told?.grade)} of 4`}
          </>
        ) : told ? (
          "No grade of this trial is low. Pick what you see:"
        ) : (
          "…"
        )}
      </p>
      <Select size="xs" aria-label="Pick a symptom" placeholder="something else is seen …" clearable value={picked} onChange={setPicked} data={symptoms.map((s) => ({ value: s.name, label: s.label }))} />
      <ol className={css.candidates}>
        {told?.candidates.map((c) => (
          <li key={`${c.setting}${c.action}${String(c.after)}`} data-off={OFF.has(c.state) || c.state === "tried, no help" || undefined}>
            <span className={css.candidate}>
              <strong>
                {c.label}
                {c.after !== null && ` ${c.before === null ? "" : `${valueWords(c.before, "")} → `}${valueWords(c.after, c.unit)}`}
              </strong>
              {!OFF.has(c.state) && c !== open && (
                <Button size="compact-sm" variant="subtle" onClick={() => void attempt(c)}>
                  try it
                </Button>
              )}
            </span>
            <span className="soft">
              {c.why} Price: {c.cost}. {c.tried ? `Here: ${c.tried}.` : c.state === "is so already" ? "It is so already." : c.action ? "" : "Not tried here."}
            </span>
            {c.against && <span className={css.against}>{c.against}</span>}
          </li>
        ))}
      </ol>
      <Refusal text={problem} />
      {open && (
        <Button fullWidth onClick={() => void attempt(open)}>
          {open.action ? "Plan drying and a repeat" : `Try ${open.label} ${valueWords(open.after, open.unit)}`}
        </Button>
      )}
    </aside>
  );
}
