import { Button, TextInput } from "@mantine/core";
import { useForm } from "@mantine/form";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { safekeepingOptions } from "../../api/queries/safekeeping";
import { ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { atMinute, span } from "../../ui/format";
import { useNow } from "../../ui/useNow";
import { Ages } from "./Ages";
import { size } from "./ages";
import css from "./safekeeping.module.css";

/** Is the notebook safe: how far back one could go, a backup now, a look through everything. */
export function SafekeepingPage() {
  const kept = useQuery(safekeepingOptions());
  const now = useNow();
  if (kept.isPending) return <Waiting what="Looking for backups …" />;
  if (kept.isError) return <ErrorNote error={kept.error} again={() => void kept.refetch()} />;
  const { backups, last_good, stale, job } = kept.data;
  return (
    <div className={`page ${css.page}`}>
      <h1>Safekeeping</h1>
      <p className={css.state} data-stale={stale}>
        {last_good ? said(now - new Date(last_good).getTime()) : "There is no backup yet."}
      </p>
      <Ages backups={backups} now={now} />
      <p className="soft">
        One is made every night while Assayer runs (outlined), or when you ask for it (filled). Of the nightly ones the last of 7 days, 4 weeks and 12 months stay; yours stay until you delete
        them.
      </p>
      <Acts job={job} />
      <Where key={kept.data.folder} kept={kept.data} />
      {backups.length > 0 && <List backups={backups} now={now} />}
    </div>
  );
}

const said = (ms: number) => (ms < 60_000 ? "The last good backup was made just now." : `The last good backup is ${span(ms / 1000)} old.`);

function Acts({ job }: { job: Schemas["JobView"] | null }) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const running = job?.state === "running";
  const start = async (what: "/api/backups" | "/api/checks") => {
    try {
      unwrap(await client.POST(what));
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
    refresh(queries, "/api/safekeeping", "/api/day");
  };
  return (
    <>
      <div className={css.acts}>
        <Button onClick={() => void start("/api/backups")} disabled={running}>
          Make a backup now
        </Button>
        <Button variant="default" onClick={() => void start("/api/checks")} disabled={running}>
          Look through everything
        </Button>
      </div>
      <Refusal text={problem} />
      {job && (
        <div className={css.job} data-state={job.state} role="status">
          {running ? (
            <>
              {job.what} …
              <progress max={1} value={job.share} aria-label={job.what} />
            </>
          ) : (
            job.words
          )}
        </div>
      )}
    </>
  );
}

function List({ backups, now }: { backups: readonly Schemas["BackupItem"][]; now: number }) {
  return (
    <>
      <h2>Backups</h2>
      <ul className={css.list}>
        {backups.map((b) => (
          <li key={b.name}>
            <span className="figure">{atMinute(b.made_at)}</span>
            <span>{span(Math.max(0, now - new Date(b.made_at).getTime()) / 1000)} old</span>
            <span className="figure">{size(b.size)}</span>
            <span className="soft">{b.nightly ? "nightly" : "by hand"}</span>
            <a href={`/api/backups/${b.name}`} download={b.name}>
              Download
            </a>
          </li>
        ))}
      </ul>
    </>
  );
}

/** Where backups go; another disk is worth more than a folder beside the data. */
function Where({ kept }: { kept: Schemas["Safekeeping"] }) {
  const queries = useQueryClient();
  const form = useForm({ initialValues: { folder: kept.folder } });
  const save = form.onSubmit(async ({ folder }) => {
    try {
      unwrap(await client.PUT("/api/safekeeping/folder", { body: { folder } }));
      refresh(queries, "/api/safekeeping", "/api/day");
    } catch (error) {
      form.setFieldError("folder", messageOf(error));
    }
  });
  return (
    <form onSubmit={save}>
      <h2>Where they go</h2>
      {kept.same_disk && <p style={{ margin: "0.3rem 0" }}>This folder is on the disk of the data: a broken disk would take both. Name a folder on another disk, or download one now and then.</p>}
      <div className={css.where}>
        <TextInput label="Folder" description="the whole path; empty: beside the data" {...form.getInputProps("folder")} />
        <Button type="submit" variant="default" disabled={!form.isDirty()}>
          Put them there
        </Button>
      </div>
      <p className="soft">
        To bring a backup back: stop Assayer, then <code>assayer restore FILE.zip --data DIR</code>; what lies in DIR is kept beside it.
      </p>
    </form>
  );
}
