import { Link } from "@tanstack/react-router";

import type { Schemas } from "../../api/client";
import { onDay } from "../../ui/format";
import css from "./studies.module.css";

/** A row or a column more: planned where it will stand. */
export function Grow({ study }: { study: Schemas["StudyView"] }) {
  const of = { to: "/studies/$studyId/plan", params: { studyId: study.id } } as const;
  return (
    <span>
      {(study.studied_factor === "material" || study.studied_factor === "colour") && (
        <>
          <Link {...of} search={{ add: "material" }}>
            another material
          </Link>
          {" · "}
        </>
      )}
      <Link {...of} search={{ add: "test" }}>
        another test
      </Link>
    </span>
  );
}

/** What was amended since the study was started, and until when its answer is needed. */
export function Amended({ study, late }: { study: Schemas["StudyView"]; late: boolean }) {
  if (!study.amendments.length && study.wanted_by === null) return null;
  return (
    <div className={css.amended}>
      {study.wanted_by !== null && <p style={late ? { color: "var(--caution)" } : undefined}>{late ? `Its answer was needed by ${onDay(study.wanted_by)}: what is not tested is late.` : `Its answer is needed by ${onDay(study.wanted_by)}.`}</p>}
      {study.amendments.map((a) => (
        <p key={`${a.at} ${a.what}`}>
          Amended {onDay(a.at)} by {a.who}: {a.what}. <em>{a.reason}</em>
        </p>
      ))}
    </div>
  );
}
