import type { Schemas } from "../../api/client";

export type Definition = Schemas["OwnDefinitionIn"];
export type Input = Definition["inputs"][number];
export type Result = Definition["results"][number];

/** What is being written: the definition, sample readings as typed by input, and the test that it is the next version of. */
export interface Draft {
  family: string | null;
  definition: Definition;
  /** Readings of one input, blanks or semicolons between them. */
  samples: Record<string, string>;
}

/** A whole example to begin with: it shows what goes where. */
export const beginning = (): Draft => ({
  family: null,
  definition: {
    label: "",
    measures: "",
    inputs: [
      { name: "greatest_load", label: "greatest load", dimension: "force", needed: 1, usual: 1, sign: "above zero", scatter: 0.08 },
      { name: "diameter", label: "outside diameter", dimension: "length", needed: 1, usual: 1, sign: "above zero", scatter: 0.08 },
      { name: "depth", label: "depth", dimension: "length", needed: 1, usual: 3, sign: "above zero", scatter: 0.08 },
    ],
    results: [{ name: "pull_out_strength", label: "pull-out strength", formula: "greatest_load / (pi * diameter * depth)", unit: "", good_side: "higher", target: 0, margin: 0.1, margin_relative: true }],
    outcomes: [
      { label: "insert came out", bound: "exact", results: [], input: "" },
      { label: "screw stripped", bound: "at_least", results: [], input: "" },
    ],
    shapes: ["hardness-block"],
    orientations: ["flat", "on edge", "upright"],
    own_parts: true,
    minutes: 4,
    typical_cv: 0.08,
  },
  samples: { greatest_load: "412", diameter: "5.6", depth: "5.02 5.05 4.98" },
});

/** An earlier version, to be written on. */
export const nextOf = (view: Schemas["OwnMethodView"]): Draft => ({ family: view.family, definition: view.definition, samples: {} });

/** A name for formulas out of what something is called: "Peel force, left" becomes peel_force_left. */
export function nameOf(label: string, taken: readonly string[]): string {
  const plain = label
    .toLowerCase()
    .normalize("NFKD")
    .replace(/[^a-z]+/g, "_")
    .replace(/^_+|_+$/g, "")
    .slice(0, 30);
  const base = plain || "value";
  if (!taken.includes(base)) return base;
  const letters = "bcdefghijklmnopqrstuvwxyz";
  for (const letter of letters) if (!taken.includes(`${base}_${letter}`)) return `${base}_${letter}`;
  return `${base}_more`;
}

/** Renames an input or result wherever it stands: in formulas, samples and what outcomes bound. */
export function renamed(draft: Draft, before: string, after: string): Draft {
  if (before === after) return draft;
  const word = new RegExp(`(?<![A-Za-z0-9_])${before}(?![A-Za-z0-9_])`, "g");
  const d = draft.definition;
  return {
    ...draft,
    definition: {
      ...d,
      inputs: d.inputs.map((i) => (i.name === before ? { ...i, name: after } : i)),
      results: d.results.map((r) => ({ ...r, name: r.name === before ? after : r.name, formula: before ? r.formula.replace(word, after) : r.formula })),
      outcomes: (d.outcomes ?? []).map((o) => ({ ...o, input: o.input === before ? after : o.input, results: (o.results ?? []).map((r) => (r === before ? after : r)) })),
    },
    samples: Object.fromEntries(Object.entries(draft.samples).map(([name, text]) => [name === before ? after : name, text])),
  };
}

/** A draft that this browser stored before inputs had a scatter and outcomes an input: with the usual ones. */
export function completed(draft: Draft): Draft {
  const d = draft.definition;
  const inputs = d.inputs.map((i) => ({ ...i, scatter: (i as Partial<Input>).scatter ?? 0.08 }));
  const outcomes = (d.outcomes ?? []).map((o) => ({ ...o, input: (o as Partial<typeof o>).input ?? "" }));
  return { ...draft, definition: { ...d, inputs, outcomes } };
}

/** Samples as the server takes them. */
export const samplesOf = (draft: Draft): Record<string, string[]> =>
  Object.fromEntries(
    draft.definition.inputs.map((i) => [
      i.name,
      (draft.samples[i.name] ?? "")
        .split(/[;\s]+/)
        .filter(Boolean)
        .slice(0, 12),
    ]),
  );
