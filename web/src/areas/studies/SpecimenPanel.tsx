import { Button, Select, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { runCurveOptions, specimenOptions } from "../../api/queries/bench";
import { PullCurve } from "../../figures/PullCurve";
import { atMinute, figure, onDay, plain, shownUnit } from "../../ui/format";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { composition, Swatch } from "../../ui/Swatch";
import css from "./specimen.module.css";

type Run = Schemas["RunView"];

const REASONS = ["void or defect", "slipped", "misprinted", "damaged in handling", "instrument fault", "other"];
const SIGN: Record<string, string> = { at_least: "≥ ", at_most: "≤ ", exact: "" };

/** Everything behind one dot: curve, results, raw entries with their history, and what may be decided about it. */
export function SpecimenPanel({ specimenId, test }: { specimenId: string; test: Schemas["TestView"] }) {
  const specimen = useQuery(specimenOptions(specimenId));
  if (specimen.isPending) return <Waiting what="Reading the specimen …" />;
  if (specimen.isError) return <ErrorNote error={specimen.error} />;
  const s = specimen.data;
  return (
    <div className={css.panel}>
      <div className={css.head}>
        <Swatch hex={s.material.hex} mark={s.mark ?? s.material.mark} filled={s.material.filler !== null} size={44} />
        <div>
          <h2 className="figure" style={{ fontSize: "1.5rem" }}>
            {s.code}
          </h2>
          <div>
            {s.material.maker} {s.material.product}, {s.material.colour} · {composition(s.material)}
          </div>
          <div className="soft" style={{ fontSize: "0.88rem" }}>
            {s.orientation} · {s.settings} · printed {onDay(s.printed_at)}
            {s.spool && (
              <>
                {" "}
                from{" "}
                <Link to="/stock/spools/$spoolId" params={{ spoolId: s.spool.id }} className="figure">
                  {s.spool.code}
                </Link>
              </>
            )}
          </div>
        </div>
      </div>
      {s.runs.map((run) => (
        <RunView key={run.id} run={run} test={test} />
      ))}
    </div>
  );
}

function RunView({ run, test }: { run: Run; test: Schemas["TestView"] }) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const refresh = () => queries.invalidateQueries({ predicate: (q) => ["specimen", "findings", "board", "curves", "queue", "run-curve", "ranking"].includes(String(q.queryKey[0])) });
  const attempt = async (change: () => Promise<unknown>) => {
    try {
      await change();
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
    await refresh();
  };
  const edit = (body: Schemas["RunEdit"]) =>
    attempt(async () => unwrap<Schemas["RunView"]>(await client.PATCH("/api/runs/{run_id}", { params: { path: { run_id: run.id }, header: { "if-match": `"${run.revision}"` } }, body })));
  const takeBack = () => attempt(async () => unwrap<Schemas["RunView"]>(await client.PUT("/api/runs/{run_id}/retraction", { params: { path: { run_id: run.id } } })));
  const restore = () => attempt(async () => unwrap<Schemas["RunView"]>(await client.DELETE("/api/runs/{run_id}/retraction", { params: { path: { run_id: run.id } } })));
  if (run.retracted_at) {
    return (
      <section className={css.run}>
        <p className="soft">
          Taken back {atMinute(run.retracted_at)} (pulled by {run.operator}).{" "}
          <Button size="compact-sm" variant="default" onClick={() => void restore()}>
            Let it count again
          </Button>
        </p>
        {problem && <p className={css.problem}>{problem}</p>}
      </section>
    );
  }
  return (
    <section className={css.run}>
      {problem && (
        <p className={css.problem} role="alert">
          {problem}
        </p>
      )}
      {run.curve && <CurveView run={run} onWindow={(window) => void edit({ modulus_window: window })} />}
      <Results run={run} test={test} />
      <Judge run={run} test={test} onEdit={(body) => void edit(body)} onTakeBack={() => void takeBack()} />
      <Readings run={run} attempt={attempt} />
      <History run={run} />
    </section>
  );
}

function CurveView({ run, onWindow }: { run: Run; onWindow: (window: [number, number] | null) => void }) {
  const curve = useQuery(runCurveOptions(run.id, run.revision));
  if (curve.isPending) return <Waiting what="Reading the curve …" />;
  if (curve.isError) return <ErrorNote error={curve.error} />;
  if (!curve.data) return null;
  const marked = curve.data.marks["modulus_window"];
  const shown: [number, number] | null = marked ? [(marked[0] ?? 0) * 100, (marked[1] ?? 0) * 100] : null;
  return (
    <div>
      <PullCurve curve={curve.data} window={shown} onWindow={(w) => onWindow([w[0] / 100, w[1] / 100])} />
      {run.modulus_window && (
        <Button size="compact-xs" variant="default" onClick={() => onWindow(null)} mt={4}>
          Back to the standard window
        </Button>
      )}
    </div>
  );
}

function Results({ run, test }: { run: Run; test: Schemas["TestView"] }) {
  const labels = new Map(test.quantities.map((q) => [q.name, q.label]));
  return (
    <div>
      <dl className={css.results}>
        {run.results.map((r) => {
          const { unit, factor } = shownUnit(r.unit);
          return (
            <div key={r.quantity}>
              <dt>{labels.get(r.quantity) ?? r.quantity}</dt>
              <dd>
                <span className="figure">
                  {SIGN[r.bound]}
                  {plain(r.value * factor)}
                </span>{" "}
                {unit}
                {r.warnings.map((w) => (
                  <div key={w} className={css.caution}>
                    {w}
                  </div>
                ))}
              </dd>
            </div>
          );
        })}
      </dl>
      {run.remarks.map((remark) => (
        <p key={remark} className={css.caution}>
          {remark}
        </p>
      ))}
      <p className="soft" style={{ fontSize: "0.82rem", margin: "0.4rem 0 0" }}>
        pulled {atMinute(run.happened_at)} by {run.operator} on {run.rig.name}, version {run.rig.version} · {run.procedure_version}
        {run.curve && ` · ${run.curve.file_name}, ${run.curve.rows} rows`}
      </p>
    </div>
  );
}

interface JudgeProps {
  run: Run;
  test: Schemas["TestView"];
  onEdit: (body: Schemas["RunEdit"]) => void;
  onTakeBack: () => void;
}

function Judge({ run, test, onEdit, onTakeBack }: JudgeProps) {
  const [reason, setReason] = useState<string | null>(null);
  const [words, setWords] = useState("");
  const choose = (value: string | null) => {
    setReason(value);
    if (value && value !== "other") onEdit({ validity: "left_out", validity_reason: value });
  };
  return (
    <div className={css.judge}>
      <div>
        <strong>{run.validity === "counts" ? "Counts" : run.validity === "left_out" ? "Left out" : run.validity === "at_least" ? "Counts as at least" : "Counts as at most"}</strong>
        {run.validity_reason && ` · ${run.validity_reason}`}
        {run.validity !== "counts" && run.validity_by && <span className="soft"> ({run.validity_by})</span>}
      </div>
      <Select
        label="Where it broke"
        size="xs"
        w={200}
        value={run.fracture}
        onChange={(fracture) => fracture && onEdit({ fracture: fracture as Schemas["RunEdit"]["fracture"] })}
        data={test.fractures.map((f) => ({ value: f.name, label: f.label }))}
        placeholder="not noted"
      />
      {run.validity === "left_out" ? (
        <Button size="xs" variant="default" onClick={() => onEdit({ validity: "counts" })}>
          Let it count
        </Button>
      ) : (
        <Select label="Leave out because" size="xs" w={190} value={reason} onChange={choose} data={REASONS} placeholder="choose a reason" />
      )}
      {run.validity !== "left_out" && reason === "other" && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            if (words.trim()) onEdit({ validity: "left_out", validity_reason: `other: ${words.trim()}` });
          }}
        >
          <TextInput label="Reason in words" size="xs" value={words} onChange={(e) => setWords(e.currentTarget.value)} maxLength={180} />
        </form>
      )}
      {run.validity === "at_least" || run.validity === "at_most" ? (
        <Button size="xs" variant="default" onClick={() => onEdit({ validity: "counts" })}>
          Count it as exact
        </Button>
      ) : null}
      <Button size="xs" variant="subtle" onClick={onTakeBack}>
        Take the entry back
      </Button>
    </div>
  );
}

function Readings({ run, attempt }: { run: Run; attempt: (change: () => Promise<unknown>) => Promise<void> }) {
  const [correcting, setCorrecting] = useState<string | null>(null);
  return (
    <div>
      <h3 className={css.small}>Raw entries</h3>
      <table className="plain">
        <thead>
          <tr>
            <th>reading</th>
            <th className="num">as typed</th>
            <th className="num">value</th>
            <th>entered</th>
            <th>
              <span className="visually-hidden">action</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {run.readings.map((r) => (
            <tr key={r.id} style={r.superseded ? { textDecoration: "line-through", color: "var(--soft)" } : undefined}>
              <td>
                {r.field.replaceAll("_", " ")} {r.field === "peak_force" ? "" : r.position + 1}
              </td>
              <td className="num">{r.raw}</td>
              <td className="num">
                {figure(r.value)} {r.field === "peak_force" ? "N" : "mm"}
              </td>
              <td style={{ fontSize: "0.85rem" }}>
                {r.entered_by}, {atMinute(r.entered_at)}
                {r.reason && <div className="soft">corrected: {r.reason}</div>}
              </td>
              <td>
                {!r.superseded && correcting !== r.id && (
                  <Button size="compact-xs" variant="subtle" onClick={() => setCorrecting(r.id)} aria-label={`correct ${r.field.replaceAll("_", " ")} ${r.position + 1}`}>
                    Correct
                  </Button>
                )}
                {correcting === r.id && <CorrectForm run={run} reading={r} attempt={attempt} onDone={() => setCorrecting(null)} />}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

interface CorrectFormProps {
  run: Run;
  reading: Schemas["ReadingView"];
  attempt: (change: () => Promise<unknown>) => Promise<void>;
  onDone: () => void;
}

function CorrectForm({ run, reading, attempt, onDone }: CorrectFormProps) {
  const [raw, setRaw] = useState(reading.raw);
  const [reason, setReason] = useState("");
  const send = () =>
    attempt(async () => {
      unwrap<Schemas["RunView"]>(
        await client.POST("/api/runs/{run_id}/corrections", {
          params: { path: { run_id: run.id }, header: { "if-match": `"${run.revision}"` } },
          body: { id: newId(), field: reading.field, position: reading.position, raw, supersedes: reading.id, reason },
        }),
      );
      onDone();
    });
  return (
    <form
      className={css.correct}
      onSubmit={(e) => {
        e.preventDefault();
        void send();
      }}
    >
      <TextInput size="xs" label="Right value" value={raw} onChange={(e) => setRaw(e.currentTarget.value)} data-autofocus autoFocus />
      <TextInput size="xs" label="Why" value={reason} onChange={(e) => setReason(e.currentTarget.value)} required />
      <span>
        <Button type="submit" size="compact-xs">
          Keep
        </Button>{" "}
        <Button size="compact-xs" variant="subtle" onClick={onDone}>
          Cancel
        </Button>
      </span>
    </form>
  );
}

function History({ run }: { run: Run }) {
  const told = (change: Schemas["ChangeView"]) => {
    const keys = Object.keys(change.after ?? {}).filter((k) => JSON.stringify(change.after?.[k]) !== JSON.stringify(change.before?.[k]) && k !== "specimen");
    if (change.action === "accepted" || change.action === "measured") return "";
    return keys
      .filter((k) => change.after?.[k] !== null)
      .map((k) => `${k.replaceAll("_", " ")}: ${words(change.before?.[k])} → ${words(change.after?.[k])}`)
      .join(", ");
  };
  return (
    <div>
      <h3 className={css.small}>History</h3>
      <ul className={css.history}>
        {run.history.map((change, i) => (
          <li key={i}>
            {atMinute(change.at)} · {change.who} · {change.action} <span className="soft">{told(change)}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}

function words(value: unknown): string {
  if (value === null || value === undefined) return "—";
  return (typeof value === "string" ? value : JSON.stringify(value)).replaceAll("_", " ");
}
