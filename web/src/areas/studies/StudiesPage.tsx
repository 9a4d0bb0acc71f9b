import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { studiesOptions } from "../../api/queries/studies";
import { onDay } from "../../ui/format";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import { Swatch } from "../../ui/Swatch";
import css from "./studies.module.css";

/** Of a study of many arms; the rest is counted. */
const SWATCHES = 12;

/** What is under way, newest first; what was put away on request. */
export function StudiesPage() {
  const [away, setAway] = useState(false);
  const studies = useQuery(studiesOptions(away));
  if (studies.isPending) return <Waiting what="Reading the studies …" />;
  if (studies.isError) return <ErrorNote error={studies.error} again={() => void studies.refetch()} />;
  const items = studies.data.items;
  if (!items.length && !studies.data.put_away) {
    return (
      <Empty title="No study yet">
        A study asks one question of several materials: name them, choose the tests, and the board takes it from there.
        <div style={{ marginTop: 16 }}>
          <Button component={Link} to="/studies/new">
            Plan the first study
          </Button>
        </div>
      </Empty>
    );
  }
  return (
    <div className="page">
      <div style={{ display: "flex", alignItems: "center", marginBottom: 8 }}>
        <h1 style={{ flex: 1 }}>{away ? "Studies put away" : "Studies"}</h1>
        {(away || studies.data.put_away > 0) && (
          <Button variant="subtle" onClick={() => setAway(!away)}>
            {away ? "Those under way" : `${String(studies.data.put_away)} put away`}
          </Button>
        )}
        <Button component={Link} to="/studies/new" variant="default">
          New study
        </Button>
      </div>
      {!items.length && <p className="soft">{away ? "None is put away." : "All are put away."}</p>}
      <ul className={css.list}>
        {items.map((study) => (
          <li key={study.id} className={css.study}>
            <div>
              <h2>
                <Link to="/studies/$studyId/board" params={{ studyId: study.id }}>
                  {study.title}
                </Link>
              </h2>
              <p className="soft" style={{ margin: "0.2rem 0 0.6rem", maxWidth: 640 }}>
                {study.question}
              </p>
              <div style={{ display: "flex", flexWrap: "wrap", gap: 6, alignItems: "center" }}>
                {study.swatches.slice(0, SWATCHES).map((s) => (
                  <Swatch key={s.mark} hex={s.hex} mark={s.mark} filled={s.filled} size={28} />
                ))}
                {study.swatches.length > SWATCHES && <span className="soft">and {study.swatches.length - SWATCHES} more arms</span>}
              </div>
            </div>
            <div style={{ textAlign: "right" }}>
              <Progress tested={study.tested} planned={study.planned} />
              <div className="soft" style={{ fontSize: "0.85rem" }}>
                {study.put_away_at ? `put away ${onDay(study.put_away_at)}` : `since ${onDay(study.created_at)}`}
              </div>
            </div>
          </li>
        ))}
      </ul>
    </div>
  );
}

function Progress({ tested, planned }: { tested: number; planned: number }) {
  const share = planned ? tested / planned : 0;
  return (
    <div>
      <span className="figure" style={{ fontSize: "1.15rem", fontWeight: 650 }}>
        {tested}
      </span>{" "}
      of <span className="figure">{planned}</span> specimens tested
      <svg width="220" height="8" style={{ display: "block", marginTop: 6 }} aria-hidden="true">
        <rect width="220" height="8" rx="4" fill="var(--raised)" />
        <rect width={220 * share} height="8" rx="4" fill="var(--accent)" />
      </svg>
    </div>
  );
}
