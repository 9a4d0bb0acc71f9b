import { Button, Modal, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { declarationsOptions, rigOptions } from "../../api/queries/rigs";
import { count, onDay, setting } from "../../ui/format";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { Record } from "../../ui/Record";
import { LookAgain } from "../day/LookAgain";
import { Calibrations } from "./Calibrations";
import { displayExample, needsOf } from "./channels";
import { Compliance } from "./Compliance";
import { Drift } from "./Drift";
import type { RigFacts } from "./facts";
import { RigForm } from "./RigForm";
import { labelOf, sample, Trust } from "./RigsPage";
import css from "./rigs.module.css";

/** One rig: what its displays show and how far they may be trusted, its versions, its calibrations. */
export function RigPage() {
  const { rigId } = useParams({ from: "/rigs/$rigId" });
  const page = useQuery(rigOptions(rigId));
  const declared = useQuery(declarationsOptions());
  if (page.isError || declared.isError) return <ErrorNote error={page.error ?? declared.error} again={() => void page.refetch()} />;
  if (!page.data || !declared.data) return <Waiting what="Reading the rig …" />;
  const { rig, versions, calibrations, runs, record } = page.data;
  const recorded = declared.data.methods.some((m) => rig.methods.includes(m.name) && m.steps.some((s) => s.kind === "recording"));
  return (
    <div className="page">
      <Link to="/rigs" className="soft">
        Rigs &amp; methods
      </Link>
      <div className={css.head}>
        <h1>{rig.name}</h1>
        <span className="figure soft">{rig.code}</span>
        <Trust rig={rig} />
        <span style={{ flex: 1 }} />
        <Rename rig={rig} />
        <NewVersion rig={rig} declared={declared.data} runs={runs} />
      </div>
      <p className="soft" style={{ margin: "0.2rem 0 0.8rem" }}>
        {rig.methods.map((m, i) => (
          <span key={m}>
            {i > 0 && ", "}
            <Link to="/methods/$method" params={{ method: m }}>
              {labelOf(declared.data, m)}
            </Link>
          </span>
        ))}
        {needsOf(declared.data.methods.filter((m) => rig.methods.includes(m.name))).facts.map((f) => {
          const value = rig.geometry[f.name];
          return value === undefined ? "" : ` · ${f.label}${f.flag ? "" : ` ${setting(value, f.unit)}`}`;
        })}
        {rig.places > 1 && ` · ${String(rig.places)} places`} · {count(runs, "run")} measured on it
        {rig.places > 1 && (
          <>
            {" · "}
            <Link to="/bench/racks/$rigId" params={{ rigId }}>
              its round
            </Link>
          </>
        )}
      </p>
      <div className={css.channels}>
        {rig.channels.map((c) => (
          <Channel key={c.name} channel={c} />
        ))}
      </div>
      <div className={css.card}>
        <div>
          <Calibrations rig={rig} calibrations={calibrations} />
          <Drift key={rig.rig_id} rig={rig} />
        </div>
        <div>
          {recorded && <Compliance key={rig.id} rig={rig} />}
          <section aria-label="Versions">
            <h2>Versions</h2>
            <ul className={css.versions}>
              {versions.map((v) => (
                <li key={v.id}>
                  <strong>{v.version}</strong> from {onDay(v.valid_from)} <span className="soft">{v.channels.map((c) => `${c.name} ${c.unit}`).join(", ")}</span>
                </li>
              ))}
            </ul>
          </section>
          <LookAgain kind="rig" id={rigId} />
          <section aria-label="Record">
            <h2>Record</h2>
            <Record entries={record} plain={["added"]} className={css.versions} />
          </section>
        </div>
      </div>
    </div>
  );
}

/** One display: how it shows a value, and the part of its range that it resolves well. */
function Channel({ channel: c }: { channel: Schemas["ChannelView"] }) {
  const low = 10 * c.step;
  const share = c.high ? Math.min(1, low / c.high) : 0;
  return (
    <section aria-label={c.name} className={css.gauge}>
      <div className="soft">{c.name}</div>
      <div>
        <span className={css.lcdBig}>{sample(c)}</span> {c.unit}
      </div>
      <div className="soft">
        {c.decimals > 0 && `${String(c.decimals)} decimals without a point: 2047 reads ${displayExample(c.decimals, c.step).read} ${c.unit} · `}step {c.step} {c.unit}
      </div>
      {c.high !== null && (
        <svg viewBox="0 0 300 34" style={{ width: "100%", display: "block" }} role="img" aria-label={`range ${String(c.low ?? 0)} to ${String(c.high)} ${c.unit}; below ${low.toPrecision(3)} it resolves a tenth`}>
          <rect x="0" y="6" width="300" height="9" rx="3" fill="var(--better)" opacity="0.55" />
          <rect x="0" y="6" width={Math.max(3, 300 * share)} height="9" fill="var(--caution)" />
          <text x="0" y="31" fontSize="12" fill="var(--soft)">
            {c.low ?? 0}
          </text>
          <text x="300" y="31" fontSize="12" textAnchor="end" fill="var(--soft)">
            {c.high} {c.unit}
          </text>
          <text x="150" y="31" fontSize="12" textAnchor="middle" fill="var(--soft)">
            marked below {Number(low.toPrecision(3))}
          </text>
        </svg>
      )}
    </section>
  );
}

function Rename({ rig }: { rig: Schemas["RigView"] }) {
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState(rig.name);
  const [problem, setProblem] = useState<string | null>(null);
  const save = async () => {
    try {
      unwrap<Schemas["RigPage"]>(await client.PATCH("/api/rigs/{rig_id}", { params: { path: { rig_id: rig.rig_id } }, body: { name } }));
      refresh(queries, "/api/rigs/{rig_id}", "/api/rigs", "/api/racks");
      setOpen(false);
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <>
      <Button size="xs" variant="subtle" onClick={() => setOpen(true)}>
        Rename …
      </Button>
      <Modal opened={open} onClose={() => setOpen(false)} title={`Another name for ${rig.name}`}>
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void save();
          }}
        >
          <TextInput label="Name" value={name} onChange={(e) => setName(e.currentTarget.value)} error={problem} maxLength={80} data-autofocus />
          <Button type="submit" mt="md">
            Rename it
          </Button>
        </form>
      </Modal>
    </>
  );
}

/** The rig has changed: another display, another span. Results before and after stay apart. */
function NewVersion({ rig, declared, runs }: { rig: Schemas["RigView"]; declared: Schemas["Declarations"]; runs: number }) {
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const [id, setId] = useState(() => newId());
  const [problem, setProblem] = useState<string | null>(null);
  const save = async (facts: RigFacts, onKept: () => void) => {
    try {
      unwrap<Schemas["RigPage"]>(await client.POST("/api/rigs/{rig_id}/versions", { params: { path: { rig_id: rig.rig_id } }, body: { version_id: id, ...facts } }));
      setId(newId());
      onKept();
      refresh(queries, "/api/rigs/{rig_id}", "/api/rigs", "/api/racks", "/api/racks/{rig_id}");
      setOpen(false);
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <>
      <Button size="xs" variant="default" onClick={() => setOpen(true)}>
        It has changed …
      </Button>
      <Modal opened={open} onClose={() => setOpen(false)} title={`${rig.name} from now on`} size="xl">
        <p className="soft">{runs > 0 ? `${count(runs, "run")} so far: ${runs === 1 ? "it stays" : "they stay"} with version ${String(rig.version)}; new ones are kept apart from them.` : "Nothing was measured on it yet."}</p>
        <RigForm key={rig.id} declared={declared} rig={rig} problem={problem} onSave={(facts, _name, _methods, onKept) => void save(facts, onKept)} />
      </Modal>
    </>
  );
}
