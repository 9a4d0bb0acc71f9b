import { Button, Chip, SegmentedControl, Select, Textarea, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import type { Schemas } from "../../api/client";
import { person } from "../../api/person";
import { dossierOptions, materialsOptions } from "../../api/queries/stock";
import { Picker } from "../../ui/Picker";
import { AddOne } from "../../ui/AddOne";
import { announce } from "../../ui/announce";
import { amount } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import { Questions } from "../../ui/Questions";
import { Statements } from "../../ui/Statements";
import { Grades } from "./Grades";
import css from "./record.module.css";
import { type RecordDraft, useRecord } from "./useRecord";
import { OUTCOMES, outcomeWords, type Trial } from "./words";

const USUAL = ["stringing", "surface", "bridging", "overhang", "flatness", "layers"];

interface TrialRecordProps {
  trial: Trial;
  trail: Schemas["TrailView"];
  declared: Schemas["DialInDeclarations"];
  onDone: () => void;
}

/** What came of a print: outcome first, then figures and grades, all of it without leaving the keyboard. */
export function TrialRecord({ trial, trail, declared, onDone }: TrialRecordProps) {
  const { now, set, keep, busy, asking, wrong, begun, forget, elsewhere, stand } = useRecord(trial, () => {
    announce(`Trial ${String(trial.number)} is kept.`);
    onDone();
  });
  const leave = () => {
    forget();
    onDone();
  };
  const [more, setMore] = useState(false);
  const first = useRef<HTMLFieldSetElement>(null);
  useEffect(() => first.current?.querySelector<HTMLInputElement>("input")?.focus(), []);
  return (
    <form
      className={css.record}
      aria-label={`Record of trial ${String(trial.number)}`}
      onSubmit={(e) => {
        e.preventDefault();
        void keep(asking.confirmed);
      }}
      onKeyDown={(e) => {
        if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) void keep(asking.confirmed);
      }}
    >
      {elsewhere && <Elsewhere trial={trial} onKeep={stand} onLeave={leave} />}
      <Outcome draft={now} set={set} frame={first} />
      <Figures draft={now} set={set} trial={trial} trail={trail} />
      {!trial.series && <Graded draft={now} set={set} trial={trial} traits={declared.traits} />}
      <Chip.Group multiple value={now.symptoms} onChange={(symptoms) => set({ symptoms })}>
        <div className={css.symptoms} role="group" aria-label="Seen or heard">
          {declared.symptoms.map((s) => (
            <Chip key={s.name} value={s.name} size="xs" variant="outline">
              {s.label}
            </Chip>
          ))}
        </div>
      </Chip.Group>
      {(more || now.tested || now.removal || now.bond || now.filaments.length > 0 || now.while_running.length > 0) && <More draft={now} set={set} />}
      <Textarea label="Note" size="xs" autosize minRows={1} value={now.note} onChange={(e) => set({ note: e.currentTarget.value })} />
      <Statements text={now.note} />
      <Decision draft={now} set={set} />
      <Questions
        questions={asking.questions}
        onLikely={(q) => asking.drop(q)}
        onConfirm={(q) => {
          const { keys, last } = asking.confirm(q);
          if (last) void keep(keys);
        }}
      />
      <Refusal text={asking.problem?.text ?? (wrong ? "a figure is no plain number" : null)} tone={wrong && !asking.problem ? "caution" : "worse"} />
      <div className={css.foot}>
        <Button type="submit" loading={busy} disabled={!now.outcome || Boolean(wrong) || elsewhere}>
          Keep trial {trial.number} <kbd style={{ marginLeft: 8 }}>Ctrl Enter</kbd>
        </Button>
        {!more && (
          <Button variant="subtle" size="xs" onClick={() => setMore(true)}>
            removal, tested warm or cold, other filaments, changed while it ran
          </Button>
        )}
        {begun && trial.outcome !== "planned" && (
          <Button
            variant="subtle"
            size="xs"
            onClick={leave}
          >
            leave it as it was
          </Button>
        )}
      </div>
    </form>
  );
}

/** Somebody else, or another tab, has kept this trial since it was begun here. */
function Elsewhere({ trial, onKeep, onLeave }: { trial: Trial; onKeep: () => void; onLeave: () => void }) {
  return (
    <p role="alert" className={css.elsewhere}>
      <strong>Saved elsewhere in the meantime:</strong> {outcomeWords(trial)}, by {trial.who}. Your input is still here, not saved yet.{" "}
      <Button size="xs" variant="default" onClick={onKeep}>
        Overwrite with mine
      </Button>{" "}
      <Button size="xs" variant="subtle" onClick={onLeave}>
        Discard mine
      </Button>
    </p>
  );
}

interface PartProps {
  draft: RecordDraft;
  set: (change: Partial<RecordDraft>) => void;
}

function Outcome({ draft, set, frame }: PartProps & { frame: React.RefObject<HTMLFieldSetElement | null> }) {
  return (
    <fieldset ref={frame} className={css.outcome} onKeyDown={(e) => byKey(e, set)}>
      <legend>How did it come out?</legend>
      {OUTCOMES.map((o) => (
        <label key={o.value} data-on={draft.outcome === o.value || undefined} data-bad={o.value === "failed" || o.value === "stopped" || undefined}>
          <input type="radio" name="outcome" checked={draft.outcome === o.value} onChange={() => set({ outcome: o.value })} />
          <kbd>{o.key}</kbd> {o.label}
        </label>
      ))}
    </fieldset>
  );
}

function Figures({ draft, set, trial, trail }: PartProps & { trial: Trial; trail: Schemas["TrailView"] }) {
  const failed = draft.outcome === "failed" || draft.outcome === "stopped";
  const bands = (trial.series?.values ?? []).map((v, i) => ({ value: String(i + 1), label: `${String(i + 1)}: ${String(v)}` }));
  return (
    <div className={css.figures}>
      {failed && !trial.series && <Number label="at" unit="%" name="failed_at" draft={draft} set={set} />}
      {failed && trial.series && <Select label="in band" size="xs" w={90} data={bands} value={draft.failed_band || null} onChange={(v) => set({ failed_band: v ?? "" })} />}
      <Number label="time" unit="min" name="minutes" draft={draft} set={set} />
      <Number label="mass" unit="g" name="total_mass" draft={draft} set={set} />
      <Number label="brim" unit="g" name="brim_mass" draft={draft} set={set} />
      <Number label="supports" unit="g" name="support_mass" draft={draft} set={set} />
      <Number label="corner lift" unit="mm" name="lift" draft={draft} set={set} />
      <Number label="room" unit="°C" name="room" draft={draft} set={set} />
      <Spool trial={trial} trail={trail} value={draft.spool_id} onChange={(spool_id) => set({ spool_id })} />
    </div>
  );
}

function Decision({ draft, set }: PartProps) {
  return (
    <fieldset className={css.outcome} data-small>
      <legend>Decision</legend>
      {(["keep", "drop", "try next"] as const).map((d) => (
        <label key={d} data-on={draft.decision === d || undefined}>
          <input type="radio" name="decision" checked={draft.decision === d} onChange={() => set({ decision: d })} />
          {d}
        </label>
      ))}
    </fieldset>
  );
}

/** Grades near and from 1 m; those of this person stand already, others grade for themselves. */
function Graded({ draft, set, trial, traits: all }: PartProps & { trial: Trial; traits: readonly Schemas["TraitView"][] }) {
  const usual = [...USUAL, ...Object.keys(trial.grades), ...draft.more];
  const far = draft.distance === "far";
  const traits = all.filter((t) => usual.includes(t.name) && (!far || t.far));
  const standing = trial.by_grader.filter((g) => g.band === null && g.distance === draft.distance && g.grader === person());
  const grades = Object.fromEntries([...standing.map((g) => [g.trait, g.grade] as const), ...Object.entries(far ? draft.far : draft.grades)]);
  const put = (trait: string, grade: number | null | undefined) => set(far ? { far: without(draft.far, trait, grade) } : { grades: without(draft.grades, trait, grade) });
  return (
    <>
      <SegmentedControl
        size="xs"
        w={240}
        aria-label="Seen from"
        value={draft.distance}
        onChange={(v) => set({ distance: v })}
        data={[
          { value: "near", label: "near" },
          { value: "far", label: "from 1 m" },
        ]}
      />
      <Grades traits={traits} grades={grades} onGrade={put} {...(far ? { about: "from 1 m" } : {})} />
      <AddOne label="Another trait" data={all.filter((t) => !usual.includes(t.name)).map((t) => ({ value: t.name, label: t.label }))} onAdd={(name) => set({ more: [...draft.more, name] })} />
    </>
  );
}

const without = (grades: RecordDraft["grades"], trait: string, grade: number | null | undefined): RecordDraft["grades"] => {
  const rest = Object.fromEntries(Object.entries(grades).filter(([name]) => name !== trait));
  return grade === undefined ? rest : { ...rest, [trait]: grade };
};

function byKey(e: React.KeyboardEvent<HTMLFieldSetElement>, set: (change: Partial<RecordDraft>) => void) {
  const found = OUTCOMES.find((o) => o.key === e.key.toLowerCase());
  if (!found || e.ctrlKey || e.metaKey) return;
  e.preventDefault();
  set({ outcome: found.value });
  const form = e.currentTarget.closest("form");
  // the field that the outcome asks for is there only now
  requestAnimationFrame(() => form?.querySelector<HTMLInputElement>("[data-figure]")?.focus());
}

interface NumberProps {
  label: string;
  unit: string;
  name: "failed_at" | "minutes" | "total_mass" | "brim_mass" | "support_mass" | "lift" | "room";
  draft: RecordDraft;
  set: (change: Partial<RecordDraft>) => void;
}

function Number({ label, unit, name, draft, set }: NumberProps) {
  return <TextInput label={`${label}, ${unit}`} size="xs" w={84} inputMode="decimal" data-figure value={draft[name]} onChange={(e) => set({ [name]: e.currentTarget.value })} />;
}

function Spool({ trial, trail, value, onChange }: { trial: Trial; trail: Schemas["TrailView"]; value: string; onChange: (id: string) => void }) {
  const dossier = useQuery(dossierOptions(trial.control?.id ?? trail.material.id));
  const spools = (dossier.data?.spools ?? []).filter((s) => !s.gone_at || s.id === value);
  return (
    <Select
      label="from spool"
      size="xs"
      w={150}
      value={value || "none"}
      data={[...spools.map((s) => ({ value: s.id, label: `${s.code}${s.left === null ? "" : `, ${amount(s.left, "g", 0)}`}` })), { value: "none", label: "none named" }]}
      allowDeselect={false}
      onChange={(v) => onChange(v && v !== "none" ? v : "")}
    />
  );
}

/** Other filaments of the same print, each with what went into the part and into its purge. */
function Filaments({ draft, set }: PartProps) {
  const materials = useQuery(materialsOptions());
  const names = (materials.data?.items ?? []).map((m) => ({ value: m.id, label: `${m.product}, ${m.colour}` }));
  const rows = [...draft.filaments, { material_id: "", part: "", purge: "" }];
  const change = (at: number, part: Partial<RecordDraft["filaments"][number]>) => set({ filaments: rows.map((r, i) => (i === at ? { ...r, ...part } : r)).filter((r) => r.material_id) });
  return rows.map((r, i) => (
    <span key={i} className={css.running}>
      <Picker aria-label="another filament" placeholder="another filament" label={i ? undefined : "besides"} size="xs" w={190} clearable missing="not in stock" data={names} value={r.material_id || null} onChange={(v) => change(i, { material_id: v ?? "" })} />
      {r.material_id && <TextInput label={i ? undefined : "part, g"} aria-label="in the part, g" size="xs" w={70} inputMode="decimal" value={r.part} onChange={(e) => change(i, { part: e.currentTarget.value })} />}
      {r.material_id && <TextInput label={i ? undefined : "purge, g"} aria-label="purge, g" size="xs" w={70} inputMode="decimal" value={r.purge} onChange={(e) => change(i, { purge: e.currentTarget.value })} />}
    </span>
  ));
}

function More({ draft, set }: PartProps) {
  const rows = [...draft.while_running, { layer: "", what: "" }];
  const change = (at: number, part: Partial<{ layer: string; what: string }>) => set({ while_running: rows.map((r, i) => (i === at ? { ...r, ...part } : r)).filter((r) => r.layer || r.what) });
  return (
    <div className={css.figures}>
      <Select label="removed" size="xs" w={130} clearable data={["by hand", "flexed", "reheated", "tool"]} value={draft.removal || null} onChange={(v) => set({ removal: (v ?? "") })} />
      <Select label="tested" size="xs" w={100} clearable data={["warm", "cold"]} value={draft.tested || null} onChange={(v) => set({ tested: (v ?? "") })} />
      <Select label="filaments" size="xs" w={140} clearable data={["bond and match", "bond", "do not bond"]} value={draft.bond || null} onChange={(v) => set({ bond: (v ?? "") })} />
      <Filaments draft={draft} set={set} />
      {rows.map((r, i) => (
        <span key={i} className={css.running}>
          <TextInput label={i ? undefined : "changed in layer"} aria-label="changed in layer" size="xs" w={110} inputMode="numeric" value={r.layer} onChange={(e) => change(i, { layer: e.currentTarget.value })} />
          <TextInput label={i ? undefined : "what, while it ran"} aria-label="what was changed while it ran" size="xs" w={190} value={r.what} onChange={(e) => change(i, { what: e.currentTarget.value })} />
        </span>
      ))}
    </div>
  );
}
