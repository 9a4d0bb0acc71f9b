import { Button, Chip, Group, Select } from "@mantine/core";
import { useClipboard } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { acrossOptions, doubtsOptions } from "../../api/queries/studies";
import { FigureFrame } from "../../figures/FigureFrame";
import { Interval } from "../../figures/Interval";
import { changeColour, Profile } from "../../figures/Profile";
import { Responses } from "../../figures/Responses";
import { scale } from "../../figures/scale";
import { capital, fixed, inText } from "../../ui/format";
import { stateWords, unsettled } from "../../ui/doubts";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import { ArmSwatch } from "../../ui/Swatch";
import { shownUnit } from "../../ui/units";
import { Wide } from "../../ui/Wide";
import css from "./across.module.css";
import { DoubtList } from "./DoubtList";
import findings from "./findings.module.css";
import { cellWords, changesOf, profileRows, profileText, responsesOf } from "./across";

type View = Schemas["AcrossView"];

interface AcrossProps {
  studyId: string;
  reference: string | undefined;
  onReference: (armId: string) => void;
  onTest: (testId: string) => void;
  onSpecimen: (specimenId: string | null, runId: string, testId: string | null) => void;
}

/** More arms than this are chosen one by one. */
const ALL = 5;

/** All tests side by side: what each arm gains and gives up against one, and whether the tests agree. */
export function Across({ studyId, reference, onReference, onTest, onSpecimen }: AcrossProps) {
  const across = useQuery(acrossOptions(studyId, reference));
  const doubts = useQuery({ ...doubtsOptions(studyId, across.data?.study.revision ?? 0), enabled: across.isSuccess });
  const [picked, setPicked] = useState<string[] | null>(null);
  if (across.isError) return <ErrorNote error={across.error} again={() => void across.refetch()} />;
  if (across.isPending) return <Waiting what="Setting the tests side by side …" />;
  const data = across.data;
  const others = data.arms.filter((a) => a.id !== data.reference_arm_id);
  const shown = picked ? others.filter((a) => picked.includes(a.id)) : others.slice(0, ALL - 1);
  // what was the reference is one of the others then
  const chooseReference = (id: string) => {
    const former = data.reference_arm_id;
    if (former !== null) setPicked((p) => p && [...p, former]);
    onReference(id);
  };
  const measured = data.rows.some((r) => r.test_id !== null);
  return (
    <>
      <div className={css.choice}>
        <Select label="Against" w={260} value={data.reference_arm_id} placeholder="Choose the reference" onChange={(id) => id && chooseReference(id)} data={data.arms.map((a) => ({ value: a.id, label: data.names[a.id] ?? a.mark }))} allowDeselect={false} searchable={data.arms.length > 8} />
        <Chip.Group multiple value={shown.map((a) => a.id)} onChange={setPicked}>
          <Group gap="xs" role="group" aria-label="Arms shown">
            {others.map((a) => (
              <Chip key={a.id} value={a.id} variant="outline">
                {data.names[a.id]}
              </Chip>
            ))}
          </Group>
        </Chip.Group>
      </div>
      {!measured ? (
        <Empty within title="Nothing tested yet">
          <p>Each test shows here as soon as it has a result.</p>
        </Empty>
      ) : data.reference_arm_id === null ? (
        <Empty within title="No reference">
          <p>Choose above what the others are compared with.</p>
        </Empty>
      ) : (
        <div className={css.columns}>
          <FigureFrame title={`Against ${data.names[data.reference_arm_id] ?? ""}, in every test`} name="across tests" about={{ kind: "study", name: data.study.title }} rows={() => profileRows(data)} doubts={unsettled(doubts.data?.doubts ?? []).map((d) => (d.test ? `${d.test}: ${d.text}` : d.text))}>
            <Profile rows={data.rows} arms={shown} names={data.names} words={cellWords} onTest={onTest} />
          </FigureFrame>
          <InWords across={data} arms={shown} />
          <OverSetting across={data} />
          <div className={css.below}>
            <Agreements across={data} onTest={onTest} />
            <Printability across={data} />
          </div>
          {doubts.data && doubts.data.doubts.length > 0 && (
            <section aria-label="In doubt" className={css.whole}>
              <h2>
                In doubt <span className={findings.count}>{stateWords(doubts.data.doubts)}</span>
              </h2>
              <DoubtList studyId={studyId} doubts={doubts.data.doubts} arms={data.arms.length} withTest onOpen={onSpecimen} />
            </section>
          )}
        </div>
      )}
    </>
  );
}

/** Where one setting was varied: all responses over it. */
function OverSetting({ across }: { across: View }) {
  const responses = responsesOf(across);
  if (!across.varied || responses.length < 2) return null;
  const { label, unit } = across.varied;
  const setting = [label, shownUnit(unit).unit].filter(Boolean).join(", ");
  return (
    <div className={css.whole}>
      <FigureFrame title={`All responses over ${inText(label)}`} name={`responses over ${label}`} about={{ kind: "study", name: across.study.title }} rows={() => [["response", "unit", setting, "mean", "low", "high"], ...responses.flatMap((r) => r.points.map((p) => [r.title, r.unit, p.x, p.mean, p.ci95?.[0] ?? "", p.ci95?.[1] ?? ""]))]}>
        <Wide label="All responses">
          <Responses responses={responses} setting={setting} />
        </Wide>
        <p className="soft">Filled = best level by its mean; an arrow where an interval goes on. Which levels are as good as the best is with each test.</p>
      </FigureFrame>
    </div>
  );
}

function InWords({ across, arms }: { across: View; arms: readonly Schemas["ArmView"][] }) {
  const clipboard = useClipboard();
  if (arms.length === 0) return <p className="soft">Choose at least one arm above.</p>;
  return (
    <section aria-label="In words" className={css.words}>
      {across.problems.length > 0 && <p style={{ color: "var(--caution)", fontWeight: 600 }}>{across.problems.map((p) => capital(p.text)).join(". ")}</p>}
      {arms.map((arm) => (
        <div key={arm.id} className={css.card}>
          <h3>
            <ArmSwatch arm={arm} size={26} /> {across.names[arm.id]}
          </h3>
          {changesOf(across, arm.id).map(({ change, parts }) => (
            <p key={change} style={{ color: changeColour[change] }}>
              <strong>{change}</strong>{" "}
              {parts.map((p, i) => (
                <span key={p.name}>
                  {i > 0 && ", "}
                  {p.name}
                  {p.size && <span style={{ whiteSpace: "nowrap", fontWeight: 600 }}> {p.size}</span>}
                </span>
              ))}
            </p>
          ))}
        </div>
      ))}
      <Button size="compact-sm" variant="subtle" ml={-8} onClick={() => clipboard.copy(profileText(across, arms.map((a) => a.id)))}>
        {clipboard.copied ? "Copied" : clipboard.error ? "The browser does not allow it" : "Copy the words"}
      </Button>
    </section>
  );
}

function Agreements({ across, onTest }: { across: View; onTest: (testId: string) => void }) {
  if (across.agreements.length === 0) return null;
  const name = (id: string) => across.names[id] ?? "";
  return (
    <section aria-label="Do the tests agree?">
      <h2>Do the tests agree?</h2>
      {across.agreements.map((a) => (
        <div key={a.name} className={css.agreement}>
          <strong>{capital(a.name)}</strong>
          <ul>
            {a.tests.map((test, i) => (
              <li key={a.test_ids[i]}>
                <button type="button" className={css.test} onClick={() => onTest(a.test_ids[i] ?? "")}>
                  {test}
                </button>{" "}
                puts {name(a.best_arm_ids[i] ?? "")} first
              </li>
            ))}
          </ul>
          <span className="soft">
            Kendall’s W {fixed(a.w, 2)} over {String(a.arms)} arms; 1 is one order, chance gives about {fixed(1 / a.tests.length, 2)}.
          </span>
          {a.contradict.map(([one, other]) => (
            <p key={one + other} style={{ color: "var(--caution)" }}>
              One test shows {name(one)} to be better than {name(other)}, another shows the opposite.
            </p>
          ))}
        </div>
      ))}
    </section>
  );
}

/** The share of good prints, as a bar with its interval. */
function Printability({ across }: { across: View }) {
  if (across.printability.length === 0) return null;
  const at = scale([0, 1], 4, 116);
  return (
    <section aria-label="Printability">
      <h2>Good prints</h2>
      <table className={css.prints}>
        <tbody>
          {across.printability.map((p) => (
            <tr key={p.material.id + p.printer}>
              <th scope="row">
                {p.material.maker} {p.material.product}
                <span className="soft">{[p.material.colour, p.printer || "printer not recorded"].join(" · ")}</span>
              </th>
              <td>
                <svg width="120" height="20" viewBox="0 0 120 20" role="img" aria-label={`95 % interval ${fixed(100 * p.low, 0)} to ${fixed(100 * p.high, 0)} %`}>
                  <line x1="4" x2="116" y1="10" y2="10" stroke="var(--line)" />
                  <Interval ci={[p.low, p.high]} at={at} y={10} colour="var(--ink)" width={2.6} />
                  <circle cx={at(p.share)} cy="10" r="4.5" fill="var(--ink)" />
                </svg>
              </td>
              <td className="figure">
                {String(p.good)} of {String(p.printed)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={`soft ${css.note}`}>All trials and batches of the material; line = 95 % interval, 0 to 100 %.</p>
    </section>
  );
}
