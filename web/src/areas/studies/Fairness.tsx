import { useQuery } from "@tanstack/react-query";

import type { Schemas } from "../../api/client";
import { fairnessOptions } from "../../api/queries/studies";
import css from "./plan.module.css";

/** What stands between the plan and an answer: each with what it costs and how to mend it. */
export function Fairness({ study }: { study: Schemas["StudyView"] }) {
  const looked = useQuery(fairnessOptions(study.id, study.revision));
  const items = looked.data?.items ?? [];
  const blocking = items.filter((u) => u.blocking).length;
  return (
    <section className={css.part} aria-label="Can it answer the question?">
      <h2>Can it answer the question?</h2>
      <p className="soft">
        {looked.data === undefined
          ? "Looking …"
          : items.length
            ? `Studied: ${studied(study)}. ${looked.data.printed ? "As it was printed" : "As planned"}: ${counted(blocking, items.length - blocking)}.`
            : `Studied: ${studied(study)}. Nothing else differs ${looked.data.printed ? "in what was printed" : "in the plan"}: a difference can be attributed to it.`}
      </p>
      <ul className={css.shortcomings}>
        {items.map((u) => (
          <li key={`${u.name} ${u.text}`} data-blocking={u.blocking || undefined}>
            <strong>
              <span aria-hidden="true">{u.blocking ? "■" : "□"}</span> {u.text}
            </strong>
            <span>
              {u.blocking && <span className="visually-hidden">Problem: </span>}
              {u.costs}
            </span>
            <span className={css.fix}>→ {u.fix}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function studied(study: Schemas["StudyView"]): string {
  const names = study.studied_settings.map((s) => s.replaceAll("_", " ")).join(", ");
  const how = study.studied_factor === "material" ? (study.each_at_best ? ", each printed at its best" : ", all with the same settings") : "";
  return `${names || study.studied_factor}${how}`;
}

function counted(blocking: number, others: number): string {
  const parts = [blocking && `${String(blocking)} ${blocking === 1 ? "problem" : "problems"}`, others && `${String(others)} ${others === 1 ? "caution" : "cautions"}`];
  return parts.filter(Boolean).join(", ");
}
