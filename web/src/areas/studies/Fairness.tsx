import { useQuery } from "@tanstack/react-query";

import type { Schemas } from "../../api/client";
import { fairnessOptions } from "../../api/queries/studies";
import css from "./plan.module.css";

/** What stands between the plan and an answer: each with what it costs and how to mend it. */
export function Fairness({ study }: { study: Schemas["StudyView"] }) {
  const looked = useQuery(fairnessOptions(study.id, study.revision));
  const items = looked.data?.items ?? [];
  const grave = items.filter((u) => u.grave).length;
  return (
    <section className={css.part} aria-label="Can it answer the question?">
      <h2>Can it answer the question?</h2>
      <p className="soft">
        {looked.data === undefined
          ? "Looking …"
          : items.length
            ? `Studied: ${studied(study)}. ${looked.data.printed ? "As it was printed" : "As planned"}: ${counted(grave, items.length - grave)}.`
            : `Studied: ${studied(study)}. Nothing but that differs ${looked.data.printed ? "in what was printed" : "in the plan"}: a difference can be laid to it.`}
      </p>
      <ul className={css.unfair}>
        {items.map((u) => (
          <li key={`${u.name} ${u.text}`} data-grave={u.grave || undefined}>
            <strong>
              <span aria-hidden="true">{u.grave ? "■" : "□"}</span> {u.text}
            </strong>
            <span>
              {u.grave && <span className="visually-hidden">It stands in the way: </span>}
              {u.costs}
            </span>
            <span className={css.mend}>→ {u.mend}</span>
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

function counted(grave: number, others: number): string {
  const parts = [grave && `${String(grave)} ${grave === 1 ? "thing stands" : "things stand"} in the way`, others && `${String(others)} to be careful about`];
  return parts.filter(Boolean).join(", ");
}
