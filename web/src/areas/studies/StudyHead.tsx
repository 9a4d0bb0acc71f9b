import { Link, useRouterState } from "@tanstack/react-router";

import type { Schemas } from "../../api/client";
import css from "./studies.module.css";

/** In the order of the work. */
const VIEWS = ["Plan", "Print", "Board", "Findings"] as const;
const PATHS = { Plan: "plan", Print: "print", Board: "board", Findings: "findings" } as const;

export function StudyHead({ study }: { study: Schemas["StudyView"] }) {
  const path = useRouterState({ select: (s) => s.location.pathname });
  return (
    <div className={css.head}>
      <div>
        <h1 data-title={`${VIEWS.find((v) => path.endsWith(v.toLowerCase())) ?? "Study"}: ${study.title}`}>{study.title}</h1>
        {study.question && <p className={css.question}>{study.question}</p>}
      </div>
      <nav className={css.tabs} aria-label="Views of the study">
        {VIEWS.map((view) => (
          <Link key={view} to={`/studies/$studyId/${PATHS[view]}`} params={{ studyId: study.id }} {...(path.endsWith(`/${PATHS[view]}`) ? { "aria-current": "page" as const } : {})}>
            {view}
          </Link>
        ))}
      </nav>
    </div>
  );
}
