import { Button, Checkbox, Select, TextInput } from "@mantine/core";
import { type UseFormReturnType } from "@mantine/form";

import type { Schemas } from "../../api/client";
import { NumberEntry } from "../../ui/NumberEntry";
import { readNumber, typed } from "../../ui/number";
import { Restored, useDraftForm } from "../../ui/useDraftForm";
import { displayExample, needsOf, stepOf } from "./channels";
import type { RigFacts } from "./facts";
import css from "./rigs.module.css";

interface ChannelDraft {
  name: string;
  dimension: string;
  unit: string;
  decimals: number | null | undefined;
  /** The example was looked at: the display really shows it so. */
  confirmed: boolean;
  step: string;
  low: string;
  high: string;
}

interface RigDraft {
  name: string;
  methods: string[];
  channels: ChannelDraft[];
  compliance: string;
  uncertainty: string;
  geometry: Record<string, string>;
  places: number | null | undefined;
  note: string;
}

interface RigFormProps {
  declared: Schemas["Declarations"];
  /** Another version of this rig; else a new one. */
  rig?: Schemas["RigView"];
  method?: string | undefined;
  problem: string | null;
  onSave: (facts: RigFacts, name: string, methods: string[], onKept: () => void) => void;
}

/** A rig by what its displays show, so that entries need no unit; each method says which channels it reads. */
export function RigForm({ declared, rig, method, problem, onSave }: RigFormProps) {
  const draft = useDraftForm<RigDraft>(`assayer.form.rig.${rig?.id ?? `new.${method ?? ""}`}`, {
    initialValues: rig ? draftOf(rig) : emptyDraft(declared, method ? [method] : []),
    validate: {
      name: (v) => (v.trim() ? null : "name it as it is called in the workshop"),
      methods: (v) => (v.length ? null : "choose what it tests"),
      compliance: (v) => (readNumber(v) === undefined ? "a number in mm/N, or nothing" : null),
      uncertainty: (v) => (readNumber(v) === undefined ? "a number in mm/N, or nothing" : null),
      channels: {
        step: (v) => ((readNumber(v) ?? 0) > 0 ? null : "its finest step"),
        low: (v) => (readNumber(v) === undefined ? "a number" : null),
        high: (v) => (readNumber(v) === undefined ? "a number" : null),
        confirmed: (v, values, path) => (v || !values.channels[Number(path.split(".")[1])]?.decimals ? null : "look at the display and confirm"),
      },
    },
  });
  const { form } = draft;
  const chosen = declared.methods.filter((m) => form.values.methods.includes(m.name));
  const needs = needsOf(chosen);
  const absent = needs.channels.filter(([name]) => !form.values.channels.some((c) => c.name === name));
  const choose = (methods: string[]) => {
    const wanted = needsOf(declared.methods.filter((m) => methods.includes(m.name))).channels;
    const kept = form.values.channels.filter((c) => wanted.some(([name]) => name === c.name));
    const added = wanted.filter(([name]) => !kept.some((c) => c.name === name)).map(([name, dimension]) => emptyChannel(declared, name, dimension));
    form.setFieldValue("methods", methods);
    form.setFieldValue("channels", [...kept, ...added]);
  };
  return (
    <form className={css.form} onSubmit={form.onSubmit((v) => onSave(factsOf(v, needs), v.name.trim(), v.methods, draft.forget))}>
      <Restored draft={draft} />
      {!rig && <TextInput label="Name of the rig" {...form.getInputProps("name")} maxLength={80} maw={420} data-autofocus autoFocus />}
      <fieldset className={css.serves}>
        <legend>What it tests</legend>
        {declared.methods.filter((m) => m.own === null || m.own.offered || form.values.methods.includes(m.name)).map((m) => (
          <Checkbox key={m.name} label={m.label} checked={form.values.methods.includes(m.name)} disabled={rig !== undefined} onChange={(e) => choose(e.currentTarget.checked ? [...form.values.methods, m.name] : form.values.methods.filter((x) => x !== m.name))} />
        ))}
        {form.errors["methods"] && <span className={css.problem}>{form.errors["methods"]}</span>}
      </fieldset>
      {form.values.channels.map((channel, i) => (
        <ChannelFields key={channel.name} form={form} index={i} channel={channel} declared={declared} onRemove={() => form.removeListItem("channels", i)} />
      ))}
      {absent.length > 0 && (
        <p className="soft">
          Not on this rig:{" "}
          {absent.map(([name, dimension]) => (
            <Button key={name} size="compact-sm" variant="default" mr={6} onClick={() => form.insertListItem("channels", emptyChannel(declared, name, dimension))}>
              + {name}
            </Button>
          ))}
        </p>
      )}
      <div className={css.row}>
        {needs.facts.map((f) => {
          const typed = form.values.geometry[f.name] ?? "";
          const put = (text: string) => form.setFieldValue(`geometry.${f.name}`, text);
          if (f.flag) return <Checkbox key={f.name} label={f.label} checked={typed !== ""} onChange={(e) => put(e.currentTarget.checked ? "1" : "")} style={{ alignSelf: "end" }} pb={8} />;
          return <TextInput key={f.name} label={[f.label, f.unit].filter(Boolean).join(", ")} value={typed} onChange={(e) => put(e.currentTarget.value)} error={form.errors[`geometry.${f.name}`]} inputMode="decimal" w={f.label.length > 16 ? 230 : 150} required={f.needed} />;
        })}
        {needs.places && <NumberEntry label="Places" min={1} max={99} whole required w={110} value={form.values.places} onChange={(v) => form.setFieldValue("places", v)} />}
        {chosen.some((m) => m.steps.some((s) => s.kind === "recording")) && (
          <TextInput label="Compliance of the frame, mm/N" description="measured later from a pull on a rigid bar; empty: not known" w={300} inputMode="decimal" {...form.getInputProps("compliance")} />
        )}
        {chosen.some((m) => m.steps.some((s) => s.kind === "recording")) && (
          <TextInput label="its standard uncertainty, mm/N" description="empty: not known" w={220} inputMode="decimal" {...form.getInputProps("uncertainty")} />
        )}
        <TextInput label="Note" style={{ flex: 1, maxWidth: 640 }} maxLength={200} {...form.getInputProps("note")} />
      </div>
      {problem && (
        <p role="alert" className={css.problem}>
          {problem}
        </p>
      )}
      <Button type="submit" style={{ justifySelf: "start" }}>
        {rig ? "It is so from now on" : "Add the rig"}
      </Button>
    </form>
  );
}

interface ChannelFieldsProps {
  form: Pick<UseFormReturnType<RigDraft>, "getInputProps" | "setFieldValue">;
  index: number;
  channel: ChannelDraft;
  declared: Schemas["Declarations"];
  onRemove: () => void;
}

function ChannelFields({ form, index, channel, declared, onRemove }: ChannelFieldsProps) {
  const at = (name: keyof ChannelDraft) => form.getInputProps(`channels.${String(index)}.${name}`);
  const example = displayExample(channel.decimals ?? 0, readNumber(channel.step) ?? 0.01);
  const units = declared.dimensions.find((d) => d.name === channel.dimension)?.units ?? [];
  return (
    <fieldset className={css.channel}>
      <legend>{channel.name}</legend>
      <Select label="display shows" data={units} w={120} allowDeselect={false} {...at("unit")} />
      <NumberEntry
        label="implied decimals"
        min={0}
        max={6}
        whole
        required
        w={130}
        value={channel.decimals}
        onChange={(decimals) => {
          form.setFieldValue(`channels.${String(index)}.decimals`, decimals);
          form.setFieldValue(`channels.${String(index)}.confirmed`, false);
          if (decimals) form.setFieldValue(`channels.${String(index)}.step`, stepOf(decimals));
        }}
      />
      <TextInput label={`step, ${channel.unit}`} w={100} inputMode="decimal" {...at("step")} />
      <TextInput label="range from" w={100} inputMode="decimal" {...at("low")} />
      <TextInput label={`to, ${channel.unit}`} w={100} inputMode="decimal" {...at("high")} />
      <div className={css.display} aria-live="polite">
        <span className={css.lcd}>{example.shown}</span> reads <strong className="figure">{example.read}</strong> {channel.unit}
        {channel.decimals === 0 && <span className="soft"> with its point</span>}
        {(channel.decimals ?? 0) > 0 && <Checkbox label="yes, it shows no point" {...form.getInputProps(`channels.${String(index)}.confirmed`, { type: "checkbox" })} />}
        <Button size="compact-sm" variant="subtle" ml={8} aria-label={`${channel.name} is not on this rig`} onClick={onRemove}>
          not on this rig
        </Button>
      </div>
    </fieldset>
  );
}

const USUAL_STEP: Record<string, string> = { force: "0.1", length: "0.01", hardness: "0.5", angle: "0.5", energy: "0.01", "pendulum length": "0.001", mass: "0.01", temperature: "1", torque: "0.01" };

function emptyChannel(declared: Schemas["Declarations"], name: string, dimension: string): ChannelDraft {
  const unit = declared.dimensions.find((d) => d.name === dimension)?.units[0] ?? "";
  return { name, dimension, unit, decimals: 0, confirmed: false, step: USUAL_STEP[dimension] ?? "", low: "0", high: "" };
}

function emptyDraft(declared: Schemas["Declarations"], methods: string[]): RigDraft {
  const channels = needsOf(declared.methods.filter((m) => methods.includes(m.name))).channels.map(([name, dimension]) => emptyChannel(declared, name, dimension));
  return { name: "", methods, channels, compliance: "", uncertainty: "", geometry: {}, places: 8, note: "" };
}

function draftOf(rig: Schemas["RigView"]): RigDraft {
  return {
    name: rig.name,
    methods: rig.methods,
    channels: rig.channels.map((c) => ({ ...c, confirmed: true, step: typed(c.step), low: typed(c.low), high: typed(c.high) })),
    compliance: typed(rig.compliance),
    uncertainty: typed(rig.compliance_uncertainty),
    geometry: Object.fromEntries(Object.entries(rig.geometry).map(([k, v]) => [k, typed(v)])),
    places: rig.places,
    note: rig.note,
  };
}

function factsOf(v: RigDraft, needs: ReturnType<typeof needsOf>): RigFacts {
  return {
    channels: v.channels.map((c) => ({ name: c.name, dimension: c.dimension, unit: c.unit, decimals: c.decimals ?? 0, step: readNumber(c.step) ?? 0, low: readNumber(c.low) ?? null, high: readNumber(c.high) ?? null })),
    compliance: readNumber(v.compliance) ?? null,
    compliance_uncertainty: readNumber(v.uncertainty) ?? null,
    // what is not known of a rig is left out
    geometry: Object.fromEntries(needs.facts.flatMap((f) => { const value = readNumber(v.geometry[f.name] ?? ""); return value ? [[f.name, value]] : []; })),
    places: needs.places ? (v.places ?? 1) : 1,
    note: v.note,
    valid_from: null,
  };
}
