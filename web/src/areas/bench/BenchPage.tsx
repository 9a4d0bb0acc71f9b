import { useLocalStorage } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";

import { queueOptions, waitingOptions } from "../../api/queries/bench";
import { declarationsOptions, rigsOptions } from "../../api/queries/rigs";
import { studyOptions } from "../../api/queries/studies";
import { LinkButton } from "../../ui/LinkButton";
import { count, inText } from "../../ui/format";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import css from "./bench.module.css";
import { Station } from "./Station";
import { WaitingLink } from "./StationParts";

export function BenchPage() {
  const search = useSearch({ from: "/bench" });
  if (!search.test) return <ChooseTest />;
  return <AtTest key={`${search.test}-${search.specimen ?? ""}`} testId={search.test} specimen={search.specimen} />;
}

/** What waits on the bench, test by test. */
function ChooseTest() {
  const waiting = useQuery(waitingOptions());
  if (waiting.isPending) return <Waiting what="Looking what waits …" />;
  if (waiting.isError) return <ErrorNote error={waiting.error} again={() => void waiting.refetch()} />;
  const tests = waiting.data.items;
  if (!tests.length) {
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
        {tests.map((t) => (
          <li key={t.test_id}>
            <WaitingLink item={t} />
          </li>
        ))}
      </ul>
      <p>
        <Link to="/bench/racks">Rounds over racks and baths</Link>
      </p>
    </div>
  );
}

function AtTest({ testId, specimen }: { testId: string; specimen: string | undefined }) {
  const [blind, setBlind] = useLocalStorage({ key: "assayer.blind", defaultValue: false, getInitialValueInEffect: false });
  const queue = useQuery(queueOptions(testId, blind));
  const study = useQuery({ ...studyOptions(queue.data?.study_id ?? ""), enabled: Boolean(queue.data) });
  const rigs = useQuery(rigsOptions());
  const declared = useQuery(declarationsOptions());
  const navigate = useNavigate({ from: "/bench" });
  if (queue.isError && !queue.data) return <ErrorNote error={queue.error} again={() => void queue.refetch()} />;
  const failed = study.error ?? rigs.error ?? declared.error;
  if (failed && (!study.data || !rigs.data || !declared.data)) return <ErrorNote error={failed} again={() => void study.refetch()} />;
  if (!queue.data || !study.data || !rigs.data || !declared.data) return <Waiting what="Fetching the queue …" />;
  const test = study.data.tests.find((t) => t.id === testId);
  const method = declared.data.methods.find((m) => m.name === test?.method);
  if (!test || !method) return <Empty title="There is no such test">Choose one from the bench.</Empty>;
  if (method.steps.some((s) => s.kind === "rounds")) {
    return (
      <Empty title={`${test.label} is read in rounds`}>
        Its specimens hang on a rack for days and are read place by place.
        <div style={{ marginTop: 16 }}>
          <LinkButton to="/bench/racks">To the racks</LinkButton>
        </div>
      </Empty>
    );
  }
  if (method.steps.some((s) => s.kind === "grades")) {
    return (
      <Empty title={`${test.label} are graded side by side`}>
        The prints lie before you, and one trait after another is graded by key.
        <div style={{ marginTop: 16 }}>
          <Link to="/bench/grading/$testId" params={{ testId }}>
            Grade them
          </Link>
        </div>
      </Empty>
    );
  }
  const serving = rigs.data.items.filter((r) => r.methods.includes(test.method));
  if (!serving.length) {
    return (
      <Empty title={`No rig does ${inText(test.label)} yet`}>
        Results belong to the rig they were measured on: name it, and say what its displays show.
        <div style={{ marginTop: 16 }}>
          <Link to="/rigs/new" search={{ method: test.method }}>
            Add a rig
          </Link>
        </div>
      </Empty>
    );
  }
  if (!queue.data.items.length) {
    return (
      <Empty title="Nothing is printed yet">
        {count(queue.data.unprinted, "specimen")} planned. Each gets its code when you say that it was printed.
        <div style={{ marginTop: 16 }}>
          <Link to="/studies/$studyId/print" params={{ studyId: queue.data.study_id }}>
            Print of the study
          </Link>
        </div>
      </Empty>
    );
  }
  return (
    <Station
      test={test}
      method={method}
      studyTitle={study.data.title}
      items={queue.data.items}
      rigs={serving}
      reasons={declared.data.left_out_reasons}
      blind={blind}
      onBlind={setBlind}
      wanted={specimen}
      onOtherTest={(other, id) => void navigate({ search: { test: other, specimen: id } })}
      onTested={(id) => void navigate({ to: "/studies/$studyId/findings", params: { studyId: queue.data.study_id }, search: { test: testId, specimen: id } })}
    />
  );
}
