import { useQueries, useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";

import { queueOptions } from "../../api/queries/bench";
import { rigsOptions } from "../../api/queries/rigs";
import { studiesOptions, studyOptions } from "../../api/queries/studies";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import css from "./bench.module.css";
import { RigForm } from "../rigs/RigForm";
import { Station } from "./Station";
import { useStored } from "./useStored";

export function BenchPage() {
  const search = useSearch({ from: "/bench" });
  if (!search.test) return <ChooseTest />;
  return <AtTest key={search.test} testId={search.test} specimen={search.specimen} />;
}

/** What waits on the bench, test by test. */
function ChooseTest() {
  const studies = useQuery(studiesOptions());
  const open = (studies.data?.items ?? []).filter((s) => s.tested < s.planned).slice(0, 20);
  const details = useQueries({ queries: open.map((s) => studyOptions(s.id)) });
  const tests = details.flatMap((d) => (d.data ? d.data.tests.map((t) => ({ test: t, study: d.data })) : []));
  const queues = useQueries({ queries: tests.map(({ test }) => queueOptions(test.id, true)) });
  if (studies.isPending) return <Waiting what="Looking what waits …" />;
  if (studies.isError) return <ErrorNote error={studies.error} again={() => void studies.refetch()} />;
  if (!open.length) {
    return (
      <Empty title="Nothing waits on the bench">
        Every planned specimen has been tested. <Link to="/studies/new">Plan a study</Link> or read the <Link to="/studies">findings</Link>.
      </Empty>
    );
  }
  return (
    <div className="page" style={{ maxWidth: 860 }}>
      <h1>What waits on the bench</h1>
      <ul className={css.tests}>
        {tests.map(({ test, study }, i) => {
          const items = queues[i]?.data?.items ?? [];
          const waiting = items.filter((q) => q.state === "waiting" || q.state === "measured").length;
          return (
            <li key={test.id}>
              <Link to="/bench" search={{ test: test.id }} className={css.testLink}>
                <span>
                  <strong>
                    {test.label}, {test.orientation}
                  </strong>
                  <span className="soft">
                    {" "}
                    · {study.title} · {test.shape.label}
                  </span>
                </span>
                <span>
                  <span className="figure" style={{ fontWeight: 700 }}>
                    {waiting}
                  </span>{" "}
                  of {items.length} waiting
                </span>
              </Link>
            </li>
          );
        })}
      </ul>
    </div>
  );
}

function AtTest({ testId, specimen }: { testId: string; specimen: string | undefined }) {
  const [blind, setBlind] = useStored("assayer.blind", false);
  const queue = useQuery(queueOptions(testId, blind));
  const study = useQuery({ ...studyOptions(queue.data?.study_id ?? ""), enabled: Boolean(queue.data) });
  const rigs = useQuery(rigsOptions());
  const navigate = useNavigate({ from: "/bench" });
  if (queue.isError && !queue.data) return <ErrorNote error={queue.error} again={() => void queue.refetch()} />;
  const failed = study.error ?? rigs.error;
  if (failed && (!study.data || !rigs.data)) return <ErrorNote error={failed} again={() => void study.refetch()} />;
  if (!queue.data || !study.data || !rigs.data) return <Waiting what="Fetching the queue …" />;
  const test = study.data.tests.find((t) => t.id === testId);
  if (!test) return <Empty title="There is no such test">Choose one from the bench.</Empty>;
  if (!rigs.data.items.length) return <RigForm />;
  return (
    <Station
      test={test}
      studyTitle={study.data.title}
      items={queue.data.items}
      rigs={rigs.data.items}
      blind={blind}
      onBlind={setBlind}
      wanted={specimen}
      onOtherTest={(test, specimen) => void navigate({ search: { test, specimen } })}
    />
  );
}
