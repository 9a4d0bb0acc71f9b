import { Button, Checkbox, MultiSelect, Select, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useSearch } from "@tanstack/react-router";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { languageOptions, ownMethodsOptions } from "../../api/queries/ownMethods";
import { declarationsOptions } from "../../api/queries/rigs";
import { NumberEntry } from "../../ui/NumberEntry";
import { figure } from "../../ui/format";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import { Wide } from "../../ui/Wide";
import { readNumber, typed } from "../../ui/number";
import { FormulaField } from "./FormulaField";
import css from "./own.module.css";
import { type Draft, type Input, nameOf, nextOf, renamed, type Result } from "./ownDraft";
import { fresh, type Own, useOwnMethod } from "./useOwnMethod";

/** Writing a test of one's own: what is read, what follows from it, how it can end; tried on samples at every stroke. */
export function OwnMethodPage() {
  const { of } = useSearch({ from: "/rigs/own" });
  const own = useQuery(ownMethodsOptions());
  const declared = useQuery(declarationsOptions());
  const failed = own.error ?? declared.error;
  if (failed) return <ErrorNote error={failed} again={() => void own.refetch()} />;
  if (!own.data || !declared.data) return <Waiting what="Reading the methods …" />;
  const before = own.data.items.find((i) => i.id === of);
  if (of !== undefined && !before) return <Empty title="There is no such test of your own">It may have been defined in another notebook.</Empty>;
  return <Editor key={of ?? "new"} before={before} declared={declared.data} />;
}

function Editor({ before, declared }: { before: Schemas["OwnMethodView"] | undefined; declared: Schemas["Declarations"] }) {
  const own = useOwnMethod(before?.id ?? "new", () => (before ? nextOf(before) : fresh()));
  const { draft, change } = own;
  const d = draft.definition;
  const set = (more: Partial<Draft["definition"]>) => change({ ...draft, definition: { ...d, ...more } });
  const faultOf = (part: string, index = 0) => own.faults.find((f) => f.part === part && f.index === index && f.start === null)?.text;
  const shapes = [...new Map(declared.methods.flatMap((m) => m.shapes.map((s) => [s.name, s.label] as const))).entries()].map(([value, label]) => ({ value, label }));
  return (
    <div className={`page ${css.page ?? ""}`}>
      <Link to="/rigs" className="soft">
        Rigs &amp; methods
      </Link>
      <h1>{before ? `${before.label}, version ${String(before.number + 1)}` : "A test of your own"}</h1>
      {before && <p className="soft">What was planned with version {before.number} stays with it; new plans take the new one.</p>}
      <div className={css.whole}>
        <TextInput label="What it is called" placeholder="Pull-out of an insert" value={d.label} maxLength={80} error={own.begun ? faultOf("label") : undefined} onChange={(e) => set({ label: e.currentTarget.value })} data-autofocus />
        <TextInput label="What it measures, in a sentence" placeholder="What the wall around an insert bears when it is pulled." value={d.measures ?? ""} maxLength={200} onChange={(e) => set({ measures: e.currentTarget.value })} />
        <MultiSelect label="Done on" data={shapes} value={d.shapes ?? []} onChange={(v) => set({ shapes: v })} error={faultOf("shapes")} searchable />
        <MultiSelect label="Printed" data={declared.orientations} value={d.orientations ?? []} onChange={(v) => set({ orientations: v })} error={faultOf("orientations")} />
        <Checkbox label="or on parts of your own" checked={d.own_parts ?? true} onChange={(e) => set({ own_parts: e.currentTarget.checked })} />
        <NumberEntry label="Minutes for one" value={own.odd.includes("minutes for one") ? undefined : (d.minutes ?? 4)} min={0.5} max={600} required onChange={(v) => (own.mark("minutes for one", v), v != null && set({ minutes: v }))} />
      </div>
      <Inputs own={own} declared={declared} faultOf={faultOf} />
      <Results own={own} faultOf={faultOf} />
      <Outcomes own={own} faultOf={faultOf} />
      <div className={css.end}>
        <Button onClick={() => void own.keep()} disabled={!own.ready} loading={own.busy}>
          {before ? "Keep the new version" : "Keep the test"}
        </Button>
        {own.begun && (
          <Button variant="subtle" onClick={own.forget}>
            Begin again
          </Button>
        )}
        {!own.ready && <StillWrong own={own} />}
        {own.problem && (
          <p role="alert" className={css.fault}>
            {own.problem}
          </p>
        )}
      </div>
      <Language />
    </div>
  );
}

interface PartProps {
  own: Own;
  faultOf: (part: string, index?: number) => string | undefined;
}

/** What is read: words, name in formulas, what it is of, how many readings; and samples to try it on. */
function Inputs({ own, declared, faultOf }: PartProps & { declared: Schemas["Declarations"] }) {
  const { draft, change } = own;
  const { inputs } = draft.definition;
  const put = (i: number, more: Partial<Input>) => change({ ...draft, definition: { ...draft.definition, inputs: inputs.map((x, k) => (k === i ? { ...x, ...more } : x)) } });
  const taken = [...inputs, ...draft.definition.results].map((x) => x.name);
  const add = () => change({ ...draft, definition: { ...draft.definition, inputs: [...inputs, { name: nameOf("reading", taken), label: "reading", dimension: "length", needed: 1, usual: 1, sign: "above zero", scatter: 0.08 }] } });
  return (
    <section>
      <h2>What is read</h2>
      <Wide label="Inputs">
        <table className={css.table}>
          <InputsHead />
          <tbody>
            {inputs.map((x, i) => {
              const unit = declared.dimensions.find((y) => y.name === x.dimension)?.base ?? "";
              return (
                <tr key={i}>
                  <td>
                    <TextInput
                      aria-label={`words of input ${String(i + 1)}`}
                      size="xs"
                      value={x.label}
                      onChange={(e) => {
                        const label = e.currentTarget.value;
                        const follows = x.name === nameOf(x.label, taken.filter((t) => t !== x.name));
                        const moved = follows ? renamed(draft, x.name, nameOf(label, taken.filter((t) => t !== x.name))) : draft;
                        change({ ...moved, definition: { ...moved.definition, inputs: moved.definition.inputs.map((y, k) => (k === i ? { ...y, label } : y)) } });
                      }}
                    />
                  </td>
                  <td>
                    <TextInput aria-label={`name of input ${String(i + 1)}`} size="xs" value={x.name} error={faultOf("inputs", i)} onChange={(e) => change(renamed(draft, x.name, e.currentTarget.value))} classNames={{ input: css.mono ?? "" }} />
                  </td>
                  <td>
                    <Select aria-label={`dimension of input ${String(i + 1)}`} size="xs" allowDeselect={false} data={declared.dimensions.map((y) => y.name)} value={x.dimension} onChange={(v) => v && put(i, { dimension: v })} searchable w={140} />
                  </td>
                  <td>
                    <NumberEntry aria-label={`readings of input ${String(i + 1)}`} size="xs" w={64} min={1} max={12} whole value={own.odd.includes(`readings of input ${String(i + 1)}`) ? undefined : (x.usual ?? 1)} onChange={(v) => (own.mark(`readings of input ${String(i + 1)}`, v), v != null && put(i, { usual: v, needed: Math.min(x.needed ?? 1, v) }))} />
                  </td>
                  <td>
                    <Select
                      aria-label={`sign of input ${String(i + 1)}`}
                      size="xs"
                      w={130}
                      allowDeselect={false}
                      data={[...(["above zero", "zero allowed", "either"] as const), "left out"]}
                      value={x.needed === 0 ? "left out" : (x.sign ?? "above zero")}
                      onChange={(v) => v && (v === "left out" ? put(i, { needed: 0 }) : put(i, { needed: Math.max(1, x.needed ?? 1), sign: v }))}
                    />
                  </td>
                  <td>
                    <Scatter key={i} label={`scatter of input ${String(i + 1)}`} scatter={x.scatter} onChange={(scatter) => put(i, { scatter })} />
                  </td>
                  <td>
                    <TextInput aria-label={`sample of ${x.label}`} size="xs" value={draft.samples[x.name] ?? ""} error={own.trial?.wrong[x.name]} rightSection={<span className="soft">{unit}</span>} rightSectionWidth={48} onChange={(e) => change({ ...draft, samples: { ...draft.samples, [x.name]: e.currentTarget.value } })} classNames={{ input: css.mono ?? "" }} />
                  </td>
                  <td>
                    <button type="button" className={css.drop} aria-label={`leave out ${x.label}`} disabled={inputs.length === 1} onClick={() => change({ ...draft, definition: { ...draft.definition, inputs: inputs.filter((_, k) => k !== i) } })}>
                      ×
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </Wide>
      <Button size="compact-sm" variant="default" onClick={add} disabled={inputs.length >= 20}>
        Another input
      </Button>
    </section>
  );
}

/** How far readings of one thing usually lie apart; what is typed stays, also while it is no number yet. */
function Scatter({ label, scatter, onChange }: { label: string; scatter: number; onChange: (scatter: number) => void }) {
  const [text, setText] = useState(typed(scatter * 100));
  const value = readNumber(text);
  return (
    <TextInput
      aria-label={label}
      size="xs"
      w={64}
      inputMode="decimal"
      value={text}
      error={value == null || !(value > 0)}
      onChange={(e) => {
        setText(e.currentTarget.value);
        const read = readNumber(e.currentTarget.value);
        if (read != null && read > 0) onChange(read / 100);
      }}
    />
  );
}

function InputsHead() {
  return (
    <thead>
      <tr>
        <th>words</th>
        <th>name in formulas</th>
        <th>is a</th>
        <th>readings</th>
        <th>may be</th>
        <th title="how far its readings may lie apart before it is asked whether one is right">scatter, %</th>
        <th>sample, to try it</th>
        <th style={{ position: "relative" }}>
          <span className="visually-hidden">leave out</span>
        </th>
      </tr>
    </thead>
  );
}

const PARTS: Record<string, string> = { label: "what it is called", shapes: "what it is done on", orientations: "how it is printed", inputs: "input", results: "result", outcomes: "outcome" };

/** Which fields keep a test from being kept, by their names. */
function StillWrong({ own }: { own: Own }) {
  const fields = [...new Set([...own.faults.map((f) => (["inputs", "results", "outcomes"].includes(f.part) ? `${PARTS[f.part] ?? f.part} ${String(f.index + 1)}` : (PARTS[f.part] ?? f.part))), ...own.odd])];
  return fields.length ? <span className="soft">Still to be put right: {fields.join(", ")}.</span> : null;
}

const SIDES = [
  { value: "higher", label: "more is better" },
  { value: "lower", label: "less is better" },
  { value: "near", label: "near 0 is better" },
  { value: "none", label: "neither" },
];

/** What follows: a formula each, with what it gives for the samples, or where it is wrong. */
function Results({ own, faultOf }: PartProps) {
  const { draft, change } = own;
  const { results } = draft.definition;
  const put = (i: number, more: Partial<Result>) => change({ ...draft, definition: { ...draft.definition, results: results.map((x, k) => (k === i ? { ...x, ...more } : x)) } });
  const taken = [...results, ...draft.definition.inputs].map((x) => x.name);
  const add = () => change({ ...draft, definition: { ...draft.definition, results: [...results, { name: nameOf("result", taken), label: "result", formula: "", unit: "", good_side: "higher", target: 0, margin: 0.1, margin_relative: true }] } });
  return (
    <section>
      <h2>What follows</h2>
      <p className="soft">The first is what verdicts rest on. A formula may use inputs and the results above it; a name alone is the mean of its readings.</p>
      {results.map((x, i) => {
        const found = own.trial?.figures.find((f) => f.name === x.name);
        const placed = own.faults.find((f) => f.part === "results" && f.index === i && f.start !== null);
        return (
          <div key={i} className={css.result}>
            <div className={css.named}>
              <TextInput label="words" size="xs" value={x.label} aria-label={`words of result ${String(i + 1)}`} onChange={(e) => put(i, { label: e.currentTarget.value })} />
              <TextInput label="name" size="xs" value={x.name} aria-label={`name of result ${String(i + 1)}`} onChange={(e) => change(renamed(draft, x.name, e.currentTarget.value))} classNames={{ input: css.mono ?? "" }} />
              <Select label="good" size="xs" allowDeselect={false} data={SIDES} value={x.good_side ?? "higher"} onChange={(v) => v && put(i, { good_side: v as Result["good_side"] })} />
              <TextInput label="in" size="xs" w={84} placeholder={found?.unit ?? ""} value={x.unit ?? ""} aria-label={`unit of result ${String(i + 1)}`} onChange={(e) => put(i, { unit: e.currentTarget.value })} />
              <NumberEntry
                label={`matters from, ${x.margin_relative ? "%" : (found?.unit ?? "")}`}
                size="xs"
                w={120}
                min={0.0001}
                value={own.odd.includes(`margin of result ${String(i + 1)}`) ? undefined : (x.margin ?? 0.1) * (x.margin_relative ? 100 : 1)}
                onChange={(v) => (own.mark(`margin of result ${String(i + 1)}`, v), v != null && put(i, { margin: v / (x.margin_relative ? 100 : 1) }))}
              />
              <button type="button" className={css.drop} aria-label={`leave out ${x.label}`} disabled={results.length === 1} onClick={() => change({ ...draft, definition: { ...draft.definition, results: results.filter((_, k) => k !== i) } })}>
                ×
              </button>
            </div>
            <div className={css.line}>
              <span className={css.equals}>{x.name} =</span>
              <FormulaField label={`formula of ${x.label}`} value={x.formula} fault={placed} onChange={(formula) => put(i, { formula })} />
              <output className={css.value} aria-label={`${x.label} of the samples`}>
                {found?.value !== null && found?.value !== undefined ? (
                  <>
                    {figure(found.value)} <span className="soft">{found.unit === "1" ? "" : found.unit}</span>
                  </>
                ) : (
                  <span className="soft">{found?.unit ? `? ${found.unit === "1" ? "" : found.unit}` : "?"}</span>
                )}
              </output>
            </div>
            {faultOf("results", i) && (
              <p role="alert" className={css.fault}>
                {faultOf("results", i)}
              </p>
            )}
            {found?.text && <p className={css.caution}>{found.text}</p>}
          </div>
        );
      })}
      {own.trial?.warnings.map((w) => (
        <p key={w} className={css.caution}>
          {w}
        </p>
      ))}
      <Button size="compact-sm" variant="default" onClick={add} disabled={results.length >= 12}>
        Another result
      </Button>
    </section>
  );
}

/** How it can end, and what that makes of the results. */
function Outcomes({ own, faultOf }: PartProps) {
  const { draft, change } = own;
  const outcomes = draft.definition.outcomes ?? [];
  const set = (next: typeof outcomes) => change({ ...draft, definition: { ...draft.definition, outcomes: next } });
  return (
    <section>
      <h2>How it can end</h2>
      {outcomes.map((o, i) => (
        <div key={i} className={css.outcome}>
          <TextInput aria-label={`outcome ${String(i + 1)}`} size="xs" w={320} value={o.label} error={faultOf("outcomes", i)} onChange={(e) => set(outcomes.map((x, k) => (k === i ? { ...x, label: e.currentTarget.value } : x)))} />
          <Select
            aria-label={`what outcome ${String(i + 1)} makes of the results`}
            size="xs"
            w={240}
            allowDeselect={false}
            data={[
              { value: "exact", label: "results are exact" },
              { value: "at_least", label: "a reading is a lower bound" },
              { value: "at_most", label: "a reading is an upper bound" },
            ]}
            value={o.bound ?? "exact"}
            onChange={(v) => v && set(outcomes.map((x, k) => (k === i ? { ...x, bound: v } : x)))}
          />
          {o.bound !== "exact" && (
            <Select
              aria-label={`reading that outcome ${String(i + 1)} bounds`}
              size="xs"
              w={170}
              clearable
              placeholder="the load"
              title="Which reading is the bound; results that fall as it rises are bounded the other way"
              data={draft.definition.inputs.map((x) => ({ value: x.name, label: x.label }))}
              value={o.input || null}
              onChange={(v) => set(outcomes.map((x, k) => (k === i ? { ...x, input: v ?? "" } : x)))}
            />
          )}
          <button type="button" className={css.drop} aria-label={`leave out ${o.label}`} onClick={() => set(outcomes.filter((_, k) => k !== i))}>
            ×
          </button>
        </div>
      ))}
      <Button size="compact-sm" variant="default" onClick={() => set([...outcomes, { label: "", bound: "exact", results: [], input: "" }])} disabled={outcomes.length >= 12}>
        Another outcome
      </Button>
    </section>
  );
}

/** What formulas may be written of. */
function Language() {
  const language = useQuery(languageOptions());
  if (!language.data) return null;
  return (
    <details className={css.language}>
      <summary>What formulas are written of</summary>
      <p>
        Functions: <code>{language.data.functions.join(", ")}</code>
      </p>
      <p>
        Constants: <code>{language.data.constants.join(", ")}</code>. Units, right behind a number: <code>{language.data.units.join(", ")}</code>
      </p>
      <pre>{language.data.grammar}</pre>
    </details>
  );
}
