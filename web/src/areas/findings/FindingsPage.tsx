import { Button, Drawer, SegmentedControl, Select, Switch } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useMemo, useState } from "react";

import type { Schemas } from "../../api/client";
import { doubtsOptions, findingsOptions, studyOptions } from "../../api/queries/studies";
import { DotInterval } from "../../figures/DotInterval";
import { FigureFrame } from "../../figures/FigureFrame";
import { capital } from "../../ui/format";
import { unsettled } from "../../ui/doubts";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import { shownQuantity } from "../../ui/units";
import { VerdictLegend } from "../../ui/Verdict";
import { StudyHead } from "../studies/StudyHead";
import studies from "../studies/studies.module.css";
import { usePlan } from "../studies/usePlan";
import { Across } from "./Across";
import { Answer } from "./Answer";
import { Curves } from "./Curves";
import { Details } from "./Details";
import { BehindVerdicts, Doubts } from "./Doubts";
import { Factors } from "./Factors";
import css from "./findings.module.css";
import { ordered, ORDERS } from "./order";
import { OtherReference } from "./OtherReference";
import { OtherOrientation, useOtherOrientations } from "./Orientations";
import { FEW_EARLIER, OtherStudies } from "./OtherStudies";
import { SpecimenPanel } from "./SpecimenPanel";
import { SpecimenPhotos } from "./SpecimenPhotos";
import { specimenRows } from "./tables";

/** Stands for a test in the address: all of them side by side. */
const ACROSS = "across";

export function FindingsPage() {
  const { studyId } = useParams({ from: "/studies/$studyId/findings" });
  const search = useSearch({ from: "/studies/$studyId/findings" });
  const navigate = useNavigate({ from: "/studies/$studyId/findings" });
  const study = useQuery(studyOptions(studyId));
  const testId = search.test ?? study.data?.tests[0]?.id;
  const isAcross = testId === ACROSS;
  const added = useMemo(() => search.add?.split(",") ?? [], [search.add]);
  const findings = useQuery({ ...findingsOptions(testId ?? "", { ...search, add: added }), enabled: Boolean(testId) && !isAcross });
  const doubts = useQuery({ ...doubtsOptions(studyId, study.data?.revision ?? 0, { test: testId, quantity: findings.data?.quantity.derived ? undefined : search.quantity }), enabled: Boolean(testId) && !isAcross && study.isSuccess });
  const chooseTest = (test: string) => void navigate({ search: (s) => ({ test, order: s.order, reference: s.reference, add: s.add }) });
  if (study.isError || findings.isError) return <ErrorNote error={study.error ?? findings.error} again={() => void findings.refetch()} />;
  if (study.isPending || (findings.isPending && !isAcross)) return <Waiting what="Working out the findings …" />;
  if (isAcross || !findings.data) {
    return (
      <div className="page">
        <StudyHead study={study.data} />
        <div className={studies.pickTest}>
          <PickTest tests={study.data.tests} chosen={ACROSS} onChoose={chooseTest} />
        </div>
        <Across key={studyId} studyId={studyId} reference={search.reference} onReference={(reference) => void navigate({ search: (s) => ({ ...s, reference }) })} onTest={chooseTest} onSpecimen={(specimen, run, test) => void navigate({ search: (s) => ({ ...s, test: test ?? undefined, specimen: specimen ?? undefined, run }) })} />
      </div>
    );
  }
  const open = (specimen: string | null, run: string) => void navigate({ search: (s) => ({ ...s, specimen: specimen ?? undefined, run }) });
  const close = () => void navigate({ search: (s) => ({ ...s, specimen: undefined, run: undefined }) });
  const data = findings.data;
  const order = search.order ?? "value";
  const tested = data.arms.some((a) => a.dots.length || a.ratio);
  return (
    <div className="page">
      <StudyHead study={study.data} />
      <div className={studies.pickTest}>
        <PickTest tests={study.data.tests} chosen={testId ?? ""} onChoose={chooseTest} />
        <Select
          aria-label="Quantity"
          w={260}
          value={data.quantity.name}
          onChange={(quantity) => void navigate({ search: (s) => ({ ...s, quantity: quantity ?? undefined, end: undefined }) })}
          data={data.quantities.map((q) => ({ value: q.name, label: [q.label, shownQuantity(q).unit].filter(Boolean).join(", ") }))}
          allowDeselect={false}
        />
        {data.ends.length > 1 && (
          <Select
            aria-label="How it ended"
            w={240}
            value={data.end}
            onChange={(end) => void navigate({ search: (s) => ({ ...s, end: end ?? undefined }) })}
            data={data.ends}
            allowDeselect={false}
          />
        )}
        <Select aria-label="Order of the arms" w={150} value={order} onChange={(value) => void navigate({ search: (s) => ({ ...s, order: value ?? undefined }) })} data={ORDERS.map((o) => ({ ...o }))} allowDeselect={false} />
        {(study.data.bounds_in || data.arms.some((a) => a.group?.at_least)) && <BoundsIn study={study.data} />}
        <span className="soft" style={{ fontSize: "0.88rem" }}>
          {data.test.after === "own method" ? "own method" : `after ${data.test.after}, own conditions`}, {data.test.shape.label} · comparable with itself
        </span>
      </div>
      {tested ? (
        <Evidence findings={data} doubts={doubts.data?.doubts} tests={study.data.tests} testId={testId ?? ""} selected={search.run ?? null} order={order} onOpen={open} onReference={(reference) => void navigate({ search: (s) => ({ ...s, reference }) })} onEarlier={(earlierStudy, test) => void navigate({ to: "/studies/$studyId/findings", params: { studyId: earlierStudy }, search: { test } })} added={added} onAdded={(materials) => void navigate({ search: (s) => ({ ...s, add: materials.join(",") || undefined }) })} />
      ) : (
        <NothingYet findings={data} testId={testId} />
      )}
      <Drawer opened={Boolean(search.specimen)} onClose={close} position="right" size={680} title="Specimen" closeButtonProps={{ "aria-label": "Close the specimen" }}>
        {search.specimen && <SpecimenPanel specimenId={search.specimen} test={data.test} />}
      </Drawer>
    </div>
  );
}

/** Before the first result: where the specimens are, and what brings it on. */
function NothingYet({ findings, testId }: { findings: Schemas["Findings"]; testId: string | undefined }) {
  const begun = findings.arms.reduce((n, a) => n + a.measured, 0);
  const rounds = findings.test.rounds;
  return (
    <Empty within title={begun ? `${String(begun)} under way, no result yet` : "Nothing tested yet"}>
      {begun > 0 && rounds && <p>The first readings of a round bring the first result.</p>}
      <Button mt="md" renderRoot={(props) => (begun > 0 && rounds ? <Link {...props} to="/bench/racks" /> : <Link {...props} to="/bench" search={{ test: testId }} />)}>
        {begun > 0 && rounds ? "Go to the rounds" : "Go to the bench"}
      </Button>
    </Empty>
  );
}

/** Tests side by side; many of them as a list. */
function PickTest({ tests, chosen, onChoose }: { tests: readonly Schemas["TestView"][]; chosen: string; onChoose: (test: string) => void }) {
  const data = [...(tests.length > 1 ? [{ value: ACROSS, label: "Across tests" }] : []), ...tests.map((t) => ({ value: t.id, label: `${t.label}, ${t.orientation}` }))];
  if (data.length > 7) return <Select aria-label="Test" w={250} data={data} value={chosen} allowDeselect={false} onChange={(test) => test && onChoose(test)} />;
  return <SegmentedControl value={chosen} onChange={onChoose} data={data} aria-label="Test" styles={{ root: { flexWrap: "wrap" } }} />;
}

/** Whether means include lower bounds; else bounds are treated as exact. */
function BoundsIn({ study }: { study: Schemas["StudyView"] }) {
  const { edit } = usePlan(study);
  return <Switch size="xs" label="include bounds in means" title="Lower bounds (grip breaks, not broken) are included in mean and verdict by a Weibull fit, where at least three broke" checked={study.bounds_in} onChange={(e) => void edit({ bounds_in: e.currentTarget.checked })} />;
}

interface EvidenceProps {
  findings: Schemas["Findings"];
  doubts: readonly Schemas["DoubtView"][] | undefined;
  tests: readonly Schemas["TestView"][];
  testId: string;
  selected: string | null;
  order: string;
  onOpen: (specimenId: string | null, runId: string) => void;
  onReference: (armId: string) => void;
  onEarlier: (studyId: string, testId: string) => void;
  /** Materials of other studies that were added to the figure. */
  added: readonly string[];
  onAdded: (materials: string[]) => void;
}

function Evidence({ findings, doubts, tests, testId, selected, order, onOpen, onReference, onEarlier, added, onAdded }: EvidenceProps) {
  const q = findings.quantity;
  const others = useOtherOrientations(findings, tests);
  const [allEarlier, setAllEarlier] = useState(false);
  const earlier = useMemo(() => (allEarlier || added.length ? findings.earlier : findings.earlier.slice(0, FEW_EARLIER)), [findings.earlier, allEarlier, added.length]);
  const groups = useMemo(() => ordered(findings.arms.map(asGroup), order, q.good_side), [findings.arms, order, q.good_side]);
  return (
    <>
      <Answer sentences={findings.answer} reference={findings.reference_arm_id} />
      <OtherReference findings={findings} onReference={onReference} />
      <div className={css.columns}>
        <div className={css.figures}>
          <FigureFrame
            title={`${capital(q.label)} ${q.derived ? "of every material" : "of every specimen"}${others.length ? `, ${findings.test.orientation}` : ""}`}
            name={`${findings.test.label} ${q.name}`}
            about={{ kind: "study", name: findings.study.title }}
            rows={() => specimenRows(findings, doubts)}
            doubts={unsettled(doubts ?? []).map((d) => d.text)}
          >
            <DotInterval groups={groups} also={others.flatMap((o) => o.arms)} referenceId={findings.reference_arm_id} quantity={q} selected={selected} onSelect={onOpen} onReference={onReference} earlier={earlier} onEarlier={onEarlier} />
            {!q.derived && <OtherStudies count={findings.earlier.length} all={allEarlier} onAll={setAllEarlier} own={findings.arms.map((a) => a.arm.material.id)} added={added} onAdded={onAdded} />}
          </FigureFrame>
          {others.map((o) => (
            <OtherOrientation key={o.test.id} findings={o} order={order} beside={[...groups.flatMap((g) => g.arms), ...others.flatMap((x) => (x === o ? [] : x.arms))]} onOpen={onOpen} />
          ))}
        </div>
        <Doubts findings={findings} doubts={doubts} onOpen={onOpen} />
        <div className={css.whole}>
          <BehindVerdicts findings={findings} />
        </div>
        <div className={css.whole}>
          <Factors key={findings.test.id} findings={findings} doubts={unsettled(doubts ?? []).map((d) => d.text)} />
        </div>
        <div className={css.whole}>
          <Curves findings={findings} testId={testId} selected={selected} onOpen={onOpen} />
        </div>
        <div className={css.whole}>
          <SpecimenPhotos testId={testId} arms={groups.flatMap((g) => g.arms)} onOpen={onOpen} />
        </div>
        <div className={css.whole}>
          <Details findings={findings} />
        </div>
        <div className={css.whole}>
          <VerdictLegend thin={findings.arms.some((a) => a.group?.ci95_new_batch != null)} />
        </div>
      </div>
    </>
  );
}

/** A ratio is drawn like a mean: its value with its interval. */
function asGroup(a: Schemas["FindingArm"]): Schemas["FindingArm"] {
  if (!a.ratio) return a;
  const { ratio: mean, ci95, bound } = a.ratio;
  return { ...a, group: { n: 0, mean, sd: null, cv: null, ci95, median: mean, minimum: mean, maximum: mean, batches: 0, within_sd: null, ci95_new_batch: null, at_least: Number(bound === "at_least"), at_most: Number(bound === "at_most") } };
}
