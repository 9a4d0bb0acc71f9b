import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useLocalStorage } from "@mantine/hooks";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { messageOf, type Schemas } from "../../api/client";
import { newId, sentAt } from "../../api/ids";
import { onDay, short } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import { readNumber } from "../../ui/number";
import css from "./trail.module.css";
import { useTrail } from "./useTrail";
import type { Trial } from "./words";

type Kind = Schemas["NewDialCalibration"]["kind"];

const GUIDE: Record<Kind, string> = {
  "flow by mass": "Print a solid block, weigh it without its brim.",
  "flow by wall": "Print a box of one wall, measure the wall at several places away from corners.",
  "pressure advance": "Print lines with the value stepped, choose the one that is of even width at its corners; or take the printer's own.",
  shrinkage: "Print features of known size, outer and inner, measure each above its first millimetre.",
};

/** Flow, pressure and shrinkage measured on a print: what stands, what has grown old, and a small guided sheet. */
export function Calibrations({ trail, from }: { trail: Schemas["TrailView"]; from: Trial }) {
  const [kind, setKind] = useState<Kind>("flow by wall");
  return (
    <details>
      <summary>
        Flow, pressure and shrinkage
        {trail.calibrations.some((c) => c.stale.length && c.stale[0] !== "a newer one stands") && <span style={{ color: "var(--caution)" }}> · one should be done again</span>}
      </summary>
      {trail.calibrations.map((c) => (
        <p key={c.id} className={css.facts} data-old={c.stale.length > 0 || undefined}>
          <strong>{c.kind}</strong> {c.before === null ? "" : `${short(c.before)} → `}
          {short(c.after)} {c.unit} <span className="soft">on {onDay(c.at)} by {c.who}: {c.words}</span>
          {c.stale.map((why) => (
            <span key={why} style={{ color: "var(--caution)" }}>
              {" "}
              · {why}
            </span>
          ))}
        </p>
      ))}
      <NativeSelect size="xs" w={200} label="Measure" value={kind} data={Object.keys(GUIDE)} onChange={(e) => setKind(e.currentTarget.value as Kind)} />
      <Guided key={kind} kind={kind} trail={trail} from={from} />
    </details>
  );
}

interface Feature {
  nominal: string;
  measured: string;
  feature: "outer" | "inner" | "centres";
}

interface Draft {
  texts: Record<string, string>;
  features: Feature[];
}

const NOTHING: Draft = { texts: {}, features: [] };

const numbers = (text: string) => text.trim().split(/[\s;]+/).filter(Boolean).map(readNumber);
const ready = (values: (number | null | undefined)[]): values is number[] => values.length > 0 && values.every((v) => typeof v === "number");

function Guided({ kind, trail, from }: { kind: Kind; trail: Schemas["TrailView"]; from: Trial }) {
  const [draft, setDraft, forget] = useLocalStorage<Draft>({ key: `assayer.calibration.${from.id}.${kind}`, defaultValue: NOTHING, getInitialValueInEffect: false });
  const { texts, features } = draft;
  const setTexts = (t: Record<string, string>) => setDraft((d) => ({ ...d, texts: t }));
  const setFeatures = (f: Feature[]) => setDraft((d) => ({ ...d, features: f }));
  const [ids] = useState(() => ({ id: newId(), trial_id: newId() }));
  const [problem, setProblem] = useState<string | null>(null);
  const { calibrate } = useTrail();
  const navigate = useNavigate();
  const field = (name: string, label: string) => <TextInput key={name} size="xs" label={label} inputMode="decimal" value={texts[name] ?? ""} onChange={(e) => setTexts({ ...texts, [name]: e.currentTarget.value })} />;
  const walls = numbers(texts["walls"] ?? "");
  const one = (name: string) => readNumber(texts[name] ?? "");
  const rows = features.map((f) => [readNumber(f.nominal), readNumber(f.measured)]);
  const complete = { "flow by mass": ready([one("volume"), one("mass")]), "flow by wall": ready(walls), "pressure advance": ready([one("advance")]), shrinkage: ready(rows.flat()) }[kind];
  const keep = async () => {
    const base = { ...ids, parent_id: from.id, kind, at: sentAt(ids.id), walls: [], nominal: [], measured: [], feature: [] };
    const more = {
      "flow by mass": { volume: one("volume") ?? null, mass: one("mass") ?? null },
      "flow by wall": { walls: walls as number[] },
      "pressure advance": { advance: one("advance") ?? null },
      shrinkage: { nominal: rows.map((r) => r[0] as number), measured: rows.map((r) => r[1] as number), feature: features.map((f) => f.feature) },
    }[kind];
    try {
      const after = await calibrate({ ...base, ...more });
      forget();
      const last = after.trials.at(-1);
      if (last) void navigate({ to: "/dial-in/$trailId", params: { trailId: trail.id }, search: { trial: last.number }, replace: true });
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        if (complete) void keep();
      }}
    >
      <p className="soft">{GUIDE[kind]}</p>
      <div className={css.form}>
        {kind === "flow by mass" && [field("volume", "volume of the block, cm³"), field("mass", "mass, g")]}
        {kind === "flow by wall" && field("walls", "wall, mm (several, with spaces between)")}
        {kind === "pressure advance" && field("advance", "value chosen, s")}
        {kind === "shrinkage" && <Features features={features} onChange={setFeatures} />}
      </div>
      <Refusal text={problem} />
      <Button type="submit" size="xs" disabled={!complete}>
        Write it into the next sheet
      </Button>
    </form>
  );
}

function Features({ features, onChange }: { features: Feature[]; onChange: (features: Feature[]) => void }) {
  const rows = [...features, { nominal: "", measured: "", feature: features.at(-1)?.feature ?? ("outer" as const) }];
  const set = (at: number, part: Partial<Feature>) => onChange(rows.map((r, i) => (i === at ? { ...r, ...part } : r)).filter((r) => r.nominal || r.measured));
  return (
    <div className="wide">
      {rows.map((r, i) => (
        <span key={i} style={{ display: "flex", gap: 6, alignItems: "end" }}>
          <NativeSelect size="xs" aria-label="kind of feature" value={r.feature} data={["outer", "inner", "centres"]} onChange={(e) => set(i, { feature: e.currentTarget.value as Feature["feature"] })} />
          <TextInput size="xs" w={110} placeholder="nominal, mm" aria-label="nominal, mm" inputMode="decimal" value={r.nominal} onChange={(e) => set(i, { nominal: e.currentTarget.value })} />
          <TextInput size="xs" w={110} placeholder="measured, mm" aria-label="measured, mm" inputMode="decimal" value={r.measured} onChange={(e) => set(i, { measured: e.currentTarget.value })} />
        </span>
      ))}
    </div>
  );
}
