import { Button, Select, TextInput } from "@mantine/core";
import { NumberEntry } from "../../ui/NumberEntry";

import { KINDS as STUDIED } from "./kinds";

import css from "./new.module.css";
import { type FactorTyped, levelsOf } from "./sweep";
import type { NewStudy } from "./useNewStudy";

const KINDS = ["all combinations", "fraction", "central composite", "Latin hypercube"] as const;

/** What differs between the arms: materials, or something else of one material. */
export function Studied({ study }: { study: NewStudy }) {
  const { form } = study;
  return (
    <div className={css.kinds} role="group" aria-label="What is studied">
      {STUDIED.map((k) => (
        <button
          key={k.value}
          type="button"
          aria-pressed={form.values.studied === k.value}
          onClick={() => {
            form.setFieldValue("studied", k.value);
            form.setFieldValue("picked", []);
            if (k.value !== "material") form.setFieldValue("chosen", (c) => c.slice(0, 1));
          }}
        >
          {k.label}
        </button>
      ))}
    </div>
  );
}

/** The settings that are studied, each with its values, and how they are combined. */
export function Sweep({ study }: { study: NewStudy }) {
  const { form, numbers, design } = study;
  const { factors, kind, halvings, runs } = form.values;
  const change = (i: number, more: Partial<(typeof factors)[number]>) => form.setFieldValue("factors", factors.map((f, j) => (j === i ? { ...f, ...more } : f)));
  return (
    <div className={css.sweep}>
      {factors.map((f, i) => {
        const spec = numbers.find((s) => s.name === f.name);
        return (
          <div key={i} className={css.factor}>
            <Select
              aria-label={`Setting ${String(i + 1)}`}
              placeholder="which setting"
              searchable
              value={f.name}
              onChange={(name) => change(i, { name })}
              data={numbers.filter((s) => s.name === f.name || !factors.some((x) => x.name === s.name)).map((s) => ({ value: s.name, label: s.label }))}
              w={230}
            />
            <TextInput
              aria-label={`Values of setting ${String(i + 1)}`}
              placeholder="values, such as 0; 50; 100"
              value={f.typed}
              error={levelsOf(f.typed) === null ? "numbers, apart by semicolons" : null}
              onChange={(e) => change(i, { typed: e.currentTarget.value })}
              w={240}
            />
            <span className="soft">{spec?.unit}</span>
            {f.beside === undefined ? (
              f.name && (
                <Button variant="subtle" size="compact-sm" onClick={() => change(i, { beside: { name: null, typed: "" } })}>
                  moves with another
                </Button>
              )
            ) : (
              <Beside index={i} factor={f} study={study} onChange={(beside) => change(i, { beside })} />
            )}
            {factors.length > 1 && (
              <Button variant="subtle" size="compact-sm" onClick={() => form.setFieldValue("factors", factors.filter((_, j) => j !== i))}>
                leave out
              </Button>
            )}
          </div>
        );
      })}
      <div className={css.factor}>
        {factors.length < 8 && (
          <Button variant="default" size="sm" onClick={() => form.setFieldValue("factors", [...factors, { name: null, typed: "" }])}>
            Another setting
          </Button>
        )}
        {factors.length > 1 && <Select aria-label="How they are combined" value={kind} onChange={(v) => form.setFieldValue("kind", KINDS.find((k) => k === v) ?? kind)} data={[...KINDS]} allowDeselect={false} w={190} />}
        {factors.length > 1 && kind === "fraction" && (
          <NumberEntry aria-label="How often halved" unit="× halved" value={halvings} min={1} max={4} whole onChange={(v) => form.setFieldValue("halvings", v)} w={150} />
        )}
        {factors.length > 1 && kind === "Latin hypercube" && <NumberEntry aria-label="Runs" unit="runs" value={runs} min={2} max={60} whole onChange={(v) => form.setFieldValue("runs", v)} w={130} />}
      </div>
      {design.problem && <p style={{ color: "var(--worse)" }}>{design.problem}</p>}
      {design.aliases.length > 0 && (
        <p className="soft" role="note">
          It cannot tell apart: {design.aliases.join("; ")}.
        </p>
      )}
    </div>
  );
}

/** A setting that moves along, so that the two hold a third one (a wall's thickness): together they are one factor. */
function Beside({ index, factor, study: { numbers, form }, onChange }: { index: number; factor: FactorTyped; study: NewStudy; onChange: (beside: FactorTyped["beside"]) => void }) {
  const { beside } = factor;
  if (!beside) return null;
  const [own, along] = [levelsOf(factor.typed)?.length ?? 0, levelsOf(beside.typed)];
  const taken = form.values.factors.flatMap((f) => [f.name, f.beside?.name]);
  return (
    <>
      <span className="soft">with</span>
      <Select
        aria-label={`What moves with setting ${String(index + 1)}`}
        placeholder="which setting"
        searchable
        value={beside.name}
        onChange={(name) => onChange({ ...beside, name })}
        data={numbers.filter((s) => s.name === beside.name || !taken.includes(s.name)).map((s) => ({ value: s.name, label: s.label }))}
        w={200}
      />
      <TextInput
        aria-label={`Values of what moves with setting ${String(index + 1)}`}
        placeholder={`${String(own || 2)} values, in step`}
        value={beside.typed}
        error={along === null || (along.length > 0 && along.length !== own) ? `${String(own)} numbers, one for each` : null}
        onChange={(e) => onChange({ ...beside, typed: e.currentTarget.value })}
        w={190}
      />
      <Button variant="subtle" size="compact-sm" onClick={() => onChange(undefined)}>
        alone
      </Button>
    </>
  );
}
