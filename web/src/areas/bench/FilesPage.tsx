import { Button, FileButton, Progress, Select, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { queueOptions } from "../../api/queries/bench";
import { declarationsOptions, rigsOptions } from "../../api/queries/rigs";
import { studyOptions } from "../../api/queries/studies";
import { unitOf } from "../../capture/parts";
import { DropFile } from "../../ui/DropFile";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import { Wide } from "../../ui/Wide";
import css from "./files.module.css";
import { lacking, sparkline } from "./many";
import { type Many, useMany } from "./useMany";

/** Many recordings at once: dropped together, matched to specimens, looked over as small curves, taken in. */
export function FilesPage() {
  const { testId } = useParams({ from: "/bench/files/$testId" });
  const queue = useQuery(queueOptions(testId, true));
  const study = useQuery({ ...studyOptions(queue.data?.study_id ?? ""), enabled: Boolean(queue.data) });
  const rigs = useQuery(rigsOptions());
  const declared = useQuery(declarationsOptions());
  const failed = queue.error ?? study.error ?? rigs.error ?? declared.error;
  if (failed) return <ErrorNote error={failed} again={() => void queue.refetch()} />;
  if (!queue.data || !study.data || !rigs.data || !declared.data) return <Waiting what="Fetching the queue …" />;
  const test = study.data.tests.find((t) => t.id === testId);
  const method = declared.data.methods.find((m) => m.name === test?.method);
  if (!test || !method?.steps.some((s) => s.channels.length)) return <Empty title="This test takes no recordings">Its readings are entered at the bench.</Empty>;
  const serving = rigs.data.items.filter((r) => r.methods.includes(test.method));
  const [first] = serving;
  if (!first) return <Empty title="No rig does it yet">Add the rig whose files these are.</Empty>;
  return <Files test={test} method={method} queue={queue.data} rigs={serving} first={first} />;
}

/** As many codes as are told before the first file. */
const SHOWN = 12;

interface FilesProps {
  test: Schemas["TestView"];
  method: Schemas["MethodView"];
  queue: Schemas["Queue"];
  rigs: Schemas["RigView"][];
  first: Schemas["RigView"];
}

function Files({ test, method, queue, rigs, first }: FilesProps) {
  const [rigId, setRigId] = useState(first.id);
  const rig = rigs.find((r) => r.id === rigId) ?? first;
  const section = method.steps.filter((s) => s.kind === "section").flatMap((s) => s.fields.filter((f) => f.needed > 0 && f.from_rig === null));
  const many = useMany(test.id, rig, queue, section);
  const { rows, progress } = many;
  return (
    <div className="page">
      <Link to="/bench" search={{ test: test.id }} className="soft">
        {test.label}, {test.orientation}
      </Link>
      <h1>Many recordings at once</h1>
      <div className={css.head}>
        <Select label="recorded on" size="xs" allowDeselect={false} data={rigs.map((r) => ({ value: r.id, label: r.name }))} value={rig.id} onChange={(v) => v && setRigId(v)} />
        {section.map((f) => (
          <TextInput key={f.name} size="xs" w={200} label={`${f.label}, where not measured`} placeholder={unitOf(rig, f)} value={many.common[f.name] ?? ""} onChange={(e) => many.setCommon(f.name, e.currentTarget.value)} />
        ))}
      </div>
      <DropFile className={css.drop} onFile={(_, all) => void many.read(all)}>
        <FileButton multiple accept=".csv,.txt,.tsv,.dat,.log,text/*" onChange={(files) => void many.read(files)}>
          {(props) => <Button {...props}>Choose files</Button>}
        </FileButton>
        <span>or drop them here, all at once. A specimen’s code in a file’s name matches it; the others follow the order of the test. A file may hold several specimens, in blocks or in columns.</span>
        {rows.length === 0 && <InOrder queue={queue} />}
      </DropFile>
      {progress && (
        <div role="status" className={css.progress}>
          <Progress value={(100 * progress.done) / progress.of} aria-label={progress.what} />
          {progress.done} of {progress.of} {progress.what}
        </div>
      )}
      {many.problem && (
        <p role="alert" style={{ color: "var(--worse)" }}>
          {many.problem}
        </p>
      )}
      {rows.length > 0 && <Rows many={many} queue={queue} needsSection={section.length > 0} />}
    </div>
  );
}

/** What waits, in the order that files without a code are given out. */
function InOrder({ queue }: { queue: Schemas["Queue"] }) {
  const waiting = queue.items.filter((i) => i.state === "waiting" || i.state === "measured");
  if (!waiting.length) return <span className="soft">No specimen of this test waits for a recording.</span>;
  const more = waiting.length - SHOWN;
  return (
    <span className={css.order}>
      <span className="soft">{waiting.length} wait, in this order:</span>
      {waiting.slice(0, SHOWN).map((i) => (
        <span key={i.specimen_id} className="code">
          {i.code}
        </span>
      ))}
      {more > 0 && <span className="soft">and {more} more</span>}
    </span>
  );
}

/** The files as a table of small curves, each with its specimen, to be put right. */
function Rows({ many, queue, needsSection }: { many: Many; queue: Schemas["Queue"]; needsSection: boolean }) {
  const open = queue.items.filter((i) => i.state === "waiting" || i.state === "measured");
  const why = (r: Schemas["ManyRow"]) => lacking(r, many.measured, needsSection, many.hasCommon);
  const ready = many.rows.filter((r) => why(r) === null);
  return (
    <>
      <div className={css.bar}>
        <Button onClick={() => void many.takeIn(ready)} disabled={!ready.length || many.progress !== null}>
          Take in {ready.length} of {many.rows.length}
        </Button>
        <span className="soft">{many.rows.filter((r) => r.matched === "code").length} matched by their code, {many.rows.filter((r) => r.matched === "order").length} in test order</span>
      </div>
      <Wide label="Recordings">
        <table className={css.table}>
          <thead>
            <tr>
              <th>curve</th>
              <th>file</th>
              <th>specimen</th>
              <th>matched by</th>
              <th>to be put right</th>
            </tr>
          </thead>
          <tbody>
            {many.rows.map((r) => (
              <tr key={r.id} data-bad={why(r) !== null || undefined}>
                <td>
                  <svg viewBox="-2 -2 134 44" width="134" height="44" role="img" aria-label={`curve of ${r.name}`}>
                    {r.points.length > 1 && <path d={sparkline(r.points, 130, 40)} fill="none" stroke="var(--ink)" strokeWidth="1.4" />}
                  </svg>
                </td>
                <td>
                  {r.name}
                  <span className="soft"> · {r.rows} rows</span>
                  {r.warnings.map((w) => (
                    <div key={w} className={css.caution}>
                      {w}
                    </div>
                  ))}
                </td>
                <td>
                  <Select
                    aria-label={`specimen of ${r.name}`}
                    size="xs"
                    w={130}
                    clearable
                    searchable
                    disabled={r.error !== null}
                    value={r.specimen_id}
                    data={open.map((i) => ({ value: i.specimen_id, label: i.code }))}
                    onChange={(v) => many.assign(r.id, open.find((i) => i.specimen_id === v) ?? null)}
                  />
                </td>
                <td className="soft">{r.matched === "code" ? "its code" : r.matched === "order" ? "test order" : r.specimen_id ? "you" : ""}</td>
                <td className={css.caution}>{why(r)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </>
  );
}
