import { Link, useRouterState } from "@tanstack/react-router";

import type { Schemas } from "../../api/client";
import css from "./studies.module.css";

const VIEWS = ["Board", "Findings", "Print", "Plan"];

export function StudyHead({ study }: { study: Schemas["StudyView"] }) {
  const path = useRouterState({ select: (s) => s.location.pathname });
  return (
    <div className={css.head}>
      <div>
        <h1 data-title={`${VIEWS.find((v) => path.endsWith(v.toLowerCase())) ?? "Study"}: ${study.title}`}>{study.title}</h1>
        {study.question && <p className={css.question}>{study.question}</p>}
      </div>
      <nav className={css.tabs} aria-label="Views of the study">
        <Link to="/studies/$studyId/board" params={{ studyId: study.id }} {...(path.endsWith("/board") ? { "aria-current": "page" as const } : {})}>
          Board
        </Link>
        <Link to="/studies/$studyId/findings" params={{ studyId: study.id }} {...(path.endsWith("/findings") ? { "aria-current": "page" as const } : {})}>
          Findings
        </Link>
        <Link to="/studies/$studyId/print" params={{ studyId: study.id }} {...(path.endsWith("/print") ? { "aria-current": "page" as const } : {})}>
          Print
        </Link>
        <Link to="/studies/$studyId/plan" params={{ studyId: study.id }} {...(path.endsWith("/plan") ? { "aria-current": "page" as const } : {})}>
          Plan
        </Link>
      </nav>
    </div>
  );
}
