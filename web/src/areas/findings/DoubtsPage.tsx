import { useQueries, useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";

import type { Schemas } from "../../api/client";
import { doubtsOptions, studiesOptions } from "../../api/queries/studies";
import { count } from "../../ui/format";
import { stateWords, unsettled } from "../../ui/doubts";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import { DoubtList } from "./DoubtList";
import css from "./findings.module.css";

/** What is in doubt in any study under way, newest first; each study shows as soon as its doubts are worked out. */
export function DoubtsPage() {
  const studies = useQuery(studiesOptions());
  const tested = (studies.data?.items ?? []).filter((s) => s.tested > 0);
  const doubts = useQueries({ queries: tested.map((s) => doubtsOptions(s.id, s.tested)) });
  if (studies.isPending) return <Waiting what="Reading the studies …" />;
  if (studies.isError) return <ErrorNote error={studies.error} again={() => void studies.refetch()} />;
  if (!tested.length) return <Empty title="Nothing is in doubt">Doubts follow from results: outliers, batches unlike the others, claims that do not hold. Nothing has been tested yet.</Empty>;
  const open = doubts.map((d) => unsettled(d.data?.doubts ?? []).length);
  const all = open.reduce((a, b) => a + b, 0);
  const concerned = open.filter((n) => n > 0).length;
  const clear = tested.filter((_, i) => doubts[i]?.data?.doubts.length === 0);
  return (
    <div className="page">
      <h1>Doubts</h1>
      <p className={css.lead} aria-live="polite">
        {doubts.some((d) => d.isPending) ? "Looking for doubts …" : concerned ? `${count(all, "doubt")} to decide on, in ${count(concerned, "study", "studies")}.` : "Nothing is in doubt."}
      </p>
      <p className="soft">Decide on them before a result is relied on. Studies that were put away are not looked at.</p>
      <div className={css.studies}>
        {tested.map((s, i) => {
          const query = doubts[i];
          if (!query || query.data?.doubts.length === 0) return null;
          return <OfStudy key={s.id} study={s} doubts={query.data?.doubts} error={query.error} again={() => void query.refetch()} />;
        })}
        {clear.length > 0 && <p className="soft">Nothing in doubt in {clear.map((s) => s.title).join(", ")}.</p>}
      </div>
    </div>
  );
}

interface OfStudyProps {
  study: Schemas["StudyItem"];
  doubts: readonly Schemas["DoubtView"][] | undefined;
  error: unknown;
  again: () => void;
}

function OfStudy({ study, doubts, error, again }: OfStudyProps) {
  const navigate = useNavigate();
  const open = (specimen: string | null, run: string, test: string | null) => void navigate({ to: "/studies/$studyId/findings", params: { studyId: study.id }, search: { test: test ?? undefined, specimen: specimen ?? undefined, run } });
  return (
    <section aria-label={study.title}>
      <h2>
        <Link to="/studies/$studyId/findings" params={{ studyId: study.id }}>
          {study.title}
        </Link>{" "}
        <span className={css.count}>{doubts && stateWords(doubts)}</span>
      </h2>
      {error ? <ErrorNote error={error} again={again} /> : doubts ? <DoubtList studyId={study.id} doubts={doubts} arms={study.swatches.length} withTest onOpen={open} /> : <Waiting what="Looking for doubts …" />}
    </section>
  );
}
