import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { messageOf } from "../../api/client";
import { AddOne } from "../../ui/AddOne";
import { Refusal } from "../../ui/Notes";
import { readNumber } from "../../ui/number";
import css from "./record.module.css";
import { useTrail } from "./useTrail";
import { chip, setWords, type Trial } from "./words";

type Spec = Schemas["SettingView"];

interface ChangesProps {
  trial: Trial;
  sheet: Schemas["SheetView"] | undefined;
  settings: readonly Spec[];
}

/** What is set otherwise in a trial that is not printed yet: one setting after another, each kept at once. */
export function Changes({ trial, sheet, settings }: ChangesProps) {
  const [name, setName] = useState<string | null>(null);
  const spec = settings.find((s) => s.name === name);
  const { record } = useTrail();
  const [problem, setProblem] = useState<string | null>(null);
  const keep = async (change: Record<string, Schemas["SetIn"] | null>) => {
    try {
      await record(trial, { changes: change });
      setProblem(null);
      setName(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const back = (d: Schemas["DifferenceView"]) => void keep({ [d.name]: d.before ? { value: d.before.value, source: d.before.source, schedule: d.before.schedule ?? null, regions: d.before.regions ?? [] } : null });
  return (
    <section aria-label="What is changed">
      <ul className={css.changes}>
        {trial.changes.map((d) => (
          <li key={d.name}>
            <span className="figure">{chip(d)}</span>
            {settings.some((s) => s.name === d.name) && (
              <button type="button" className={css.back} aria-label={`Take back: ${chip(d)}`} onClick={() => back(d)}>
                ×
              </button>
            )}
          </li>
        ))}
        {!trial.changes.length && <li className="soft">{trial.parent_id ? "the same settings again" : "the first sheet, as it is"}</li>}
      </ul>
      {trial.changes.length > 1 && <p className={css.several}>{trial.changes.length} things at once: whatever comes of it, none of them is credited. One at a time tells what each does.</p>}
      {spec ? (
        <NewValue key={spec.name} spec={spec} now={sheet?.values[spec.name]} onKeep={(set) => void keep({ [spec.name]: set })} onCancel={() => setName(null)} />
      ) : (
        <AddOne label="Change a setting" maw={320} data={settings.map((s) => ({ value: s.name, label: `${s.label}${sheet?.values[s.name] ? `: ${setWords(sheet.values[s.name], s.unit)}` : ""}` }))} onAdd={setName} />
      )}
      {sheet && <OwnFields key={sheet.id} trial={trial} sheet={sheet} />}
      <Refusal text={problem} />
    </section>
  );
}

/** Fields of a sheet's own, and which program made the file. */
function OwnFields({ trial, sheet }: { trial: Trial; sheet: Schemas["SheetView"] }) {
  const { record } = useTrail();
  const [made, setMade] = useState(sheet.prepared_with);
  const [field, setField] = useState({ label: "", value: "", unit: "" });
  const [problem, setProblem] = useState<string | null>(null);
  const keep = (told: Parameters<typeof record>[1]) => void record(trial, told).then(() => setProblem(null), (error: unknown) => setProblem(messageOf(error)));
  const add = () => {
    const number = readNumber(field.value);
    keep({ extras: [...sheet.extras, { label: field.label, value: typeof number === "number" ? number : field.value, unit: field.unit }] });
  };
  return (
    <details style={{ marginTop: 6 }}>
      <summary>which program made the file, fields of your own</summary>
      <form
        className={css.newValue}
        onSubmit={(e) => {
          e.preventDefault();
          if (made !== sheet.prepared_with) keep({ prepared_with: made });
        }}
      >
        <TextInput size="xs" label="prepared with (program and version)" value={made} maxLength={80} onChange={(e) => setMade(e.currentTarget.value)} />
        <Button type="submit" size="xs" variant="default" disabled={made === sheet.prepared_with}>
          Set
        </Button>
      </form>
      <form
        className={css.newValue}
        onSubmit={(e) => {
          e.preventDefault();
          if (field.label.trim() && field.value.trim()) add();
        }}
      >
        <TextInput size="xs" label="a field of your own" value={field.label} maxLength={80} onChange={(e) => setField({ ...field, label: e.currentTarget.value })} />
        <TextInput size="xs" label="value" w={110} value={field.value} onChange={(e) => setField({ ...field, value: e.currentTarget.value })} />
        <TextInput size="xs" label="unit" w={70} value={field.unit} maxLength={12} onChange={(e) => setField({ ...field, unit: e.currentTarget.value })} />
        <Button type="submit" size="xs" variant="default" disabled={!field.label.trim() || !field.value.trim()}>
          Add
        </Button>
      </form>
      <Refusal text={problem} />
    </details>
  );
}

interface NewValueProps {
  spec: Spec;
  now: Schemas["SetView"] | undefined;
  onKeep: (set: Schemas["SetIn"]) => void;
  onCancel: () => void;
}

function NewValue({ spec, now, onKeep, onCancel }: NewValueProps) {
  const [text, setText] = useState("");
  const choices = spec.kind === "flag" ? ["yes", "no"] : spec.choices;
  const number = readNumber(text);
  const value = spec.kind === "number" ? number : spec.kind === "flag" ? text === "yes" : text.trim();
  const ready = text !== "" && value !== null && value !== undefined && value !== "";
  const [more, setMore] = useState({ open: false, step: "", every: "", end: "", where: "", there: "" });
  const [step, every, end, there] = [more.step, more.every, more.end, more.there].map(readNumber);
  const schedule = step && every && end != null ? { step, every, end } : null;
  const region = more.where.trim() && more.there.trim() ? [{ where: more.where.trim(), value: spec.kind === "number" ? (there ?? 0) : more.there.trim() }] : [];
  const half = (more.step || more.every || more.end) && !schedule ? "say the step, how often and where it ends" : null;
  const wrong = spec.kind === "number" && number === undefined ? "not a plain number" : null;
  return (
    <form
      className={css.newValue}
      onSubmit={(e) => {
        e.preventDefault();
        if (ready && !half) onKeep({ value, source: "entered", schedule, regions: region });
      }}
      onKeyDown={(e) => e.key === "Escape" && onCancel()}
    >
      {choices.length ? (
        <NativeSelect autoFocus size="xs" label={spec.label} value={text} onChange={(e) => setText(e.currentTarget.value)} data={["", ...choices]} />
      ) : (
        <TextInput
          autoFocus
          size="xs"
          label={`${spec.label}${spec.unit ? `, ${spec.unit}` : ""}${now ? ` (now ${setWords(now, "")})` : ""}`}
          inputMode={spec.kind === "number" ? "decimal" : "text"}
          value={text}
          error={wrong}
          onChange={(e) => setText(e.currentTarget.value)}
        />
      )}
      <Button type="submit" size="xs" disabled={!ready || Boolean(half)}>
        Set
      </Button>
      <Button size="xs" variant="subtle" onClick={onCancel}>
        Cancel
      </Button>
      {!more.open ? (
        <Button size="xs" variant="subtle" onClick={() => setMore({ ...more, open: true })}>
          moves over layers, differs somewhere
        </Button>
      ) : (
        <>
          {spec.kind === "number" && (
            <>
              <TextInput size="xs" w={80} label="then by" inputMode="decimal" value={more.step} onChange={(e) => setMore({ ...more, step: e.currentTarget.value })} />
              <TextInput size="xs" w={90} label="every … layers" inputMode="numeric" value={more.every} onChange={(e) => setMore({ ...more, every: e.currentTarget.value })} />
              <TextInput size="xs" w={80} label="down or up to" inputMode="decimal" value={more.end} error={half} onChange={(e) => setMore({ ...more, end: e.currentTarget.value })} />
            </>
          )}
          <TextInput size="xs" w={130} label="but in this place" value={more.where} onChange={(e) => setMore({ ...more, where: e.currentTarget.value })} />
          <TextInput size="xs" w={80} label="it is" value={more.there} onChange={(e) => setMore({ ...more, there: e.currentTarget.value })} />
        </>
      )}
    </form>
  );
}
