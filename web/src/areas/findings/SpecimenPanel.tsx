import { Button } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { photosOptions, runCurveOptions, specimenOptions } from "../../api/queries/bench";
import { PullCurve } from "../../figures/PullCurve";
import { ReadingsCurve } from "../../figures/ReadingsCurve";
import { atMinute, interval, onDay, plain } from "../../ui/format";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { Record } from "../../ui/Record";
import { composition, Swatch } from "../../ui/Swatch";
import { LookAgain } from "../day/LookAgain";
import { Photos } from "../photos/Photos";
import { Judge } from "./Judge";
import { Readings } from "./Readings";
import css from "./specimen.module.css";
import { shownUnit } from "../../ui/units";

type Run = Schemas["RunView"];

const SIGN: Record<string, string> = { at_least: "≥ ", at_most: "≤ ", exact: "" };

/** Everything behind one dot: curve, results, raw entries, their record, and what may be decided about it. */
/** What a change of one run may alter. */
const TOUCHED = [
  "/api/specimens/{specimen_id}", "/api/tests/{test_id}/findings", "/api/studies/{study_id}/board", "/api/tests/{test_id}/curves", "/api/tests/{test_id}/queue",
  "/api/runs/{run_id}/curve", "/api/purposes/{purpose_id}/ranking",
]; // prettier-ignore

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
          {s.doubt && (
            <div role="note" style={{ color: "var(--caution)" }}>
              {s.doubt}
            </div>
          )}
        </div>
      </div>
      {s.runs.map((run) => (
        <RunView key={run.id} run={run} test={test} />
      ))}
      <OfThePrint id={s.id} />
      <LookAgain kind="specimen" id={s.id} className={css.run ?? ""} />
    </div>
  );
}

/** Photographs of the print itself, such as those taken while it was graded. */
function OfThePrint({ id }: { id: string }) {
  const photos = useQuery(photosOptions("specimen", id));
  if (!photos.data?.items.length) return null;
  return (
    <section className={css.run}>
      <h3 className={css.small}>Photographs of the print</h3>
      <Photos subject={{ kind: "specimen", id }} photos={photos.data.items} />
    </section>
  );
}

function RunView({ run, test }: { run: Run; test: Schemas["TestView"] }) {
  const queries = useQueryClient();
  const photos = useQuery(photosOptions("run", run.id));
  const [problem, setProblem] = useState<string | null>(null);
  const refresh = () => queries.invalidateQueries({ predicate: (q) => TOUCHED.includes(String(q.queryKey[1])) });
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
          Taken back {atMinute(run.retracted_at)} (entered by {run.operator}).{" "}
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
      {run.has_view && <RunCurve run={run} onRange={(range) => void edit({ options: { modulus_range: range } })} />}
      <Results run={run} />
      <Judge run={run} test={test} onEdit={(body) => void edit(body)} onTakeBack={() => void takeBack()} />
      <Readings run={run} onChanged={refresh} />
      <h3 className={css.small}>Photographs</h3>
      <Photos subject={{ kind: "run", id: run.id }} photos={photos.data?.items ?? []} />
      <h3 className={css.small}>Record</h3>
      <Record entries={run.record} plain={["accepted", "measured"]} className={css.history} />
    </section>
  );
}

function RunCurve({ run, onRange }: { run: Run; onRange: (range: [number, number] | null) => void }) {
  const curve = useQuery(runCurveOptions(run.id, run.revision));
  if (curve.isPending) return <Waiting what="Reading the curve …" />;
  if (curve.isError || !curve.data) return null;
  if (curve.data.single_readings) return <ReadingsCurve curve={curve.data} />;
  const marked = curve.data.marks["modulus_range"];
  const shown: [number, number] | null = marked ? [(marked[0] ?? 0) * 100, (marked[1] ?? 0) * 100] : null;
  return (
    <div>
      <PullCurve curve={curve.data} range={shown} onRange={(r) => onRange([r[0] / 100, r[1] / 100])} />
      {run.options["modulus_range"] != null && (
        <Button size="compact-sm" variant="default" onClick={() => onRange(null)} mt={4}>
          Back to the standard range
        </Button>
      )}
    </div>
  );
}

function Results({ run }: { run: Run }) {
  return (
    <div>
      <dl className={css.results}>
        {run.results.map((r) => {
          const { unit, at, ends } = shownUnit(r.unit);
          return (
            <div key={r.quantity}>
              <dt>{r.label}
                {r.provisional && <span className="soft"> so far</span>}</dt>
              <dd>
                <span className="figure">
                  {SIGN[r.bound]}
                  {plain(at(r.value))}
                </span>{" "}
                {unit}
                {r.interval && <span className="soft figure"> {interval(ends(r.interval))}</span>}
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
        {run.complete ? "tested" : "under way since"} {atMinute(run.happened_at)} by {run.operator} on {run.rig.name}, version {run.rig.version} · {run.procedure_version}
        {run.curve && ` · ${run.curve.file_name}, ${run.curve.rows} rows`}
      </p>
    </div>
  );
}
