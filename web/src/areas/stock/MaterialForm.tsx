import { Button, ColorInput, Select, Textarea, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { refreshStock } from "../../api/queries/stock";
import { HeatWindow } from "../../figures/HeatWindow";
import { readNumber, typed } from "../../ui/number";
import { Questions } from "../../ui/Questions";
import { NEUTRAL, Swatch } from "../../ui/Swatch";
import { useAsking } from "../../ui/useAsking";
import css from "./form.module.css";

type Dossier = Schemas["Dossier"];

interface MaterialFormProps {
  /** The material to edit, or the one whose values a new colour starts from. */
  dossier?: Dossier | undefined;
  /** A new material, perhaps starting from `dossier`. */
  isNew?: boolean;
  onDone: (materialId: string) => void;
}

const NUMBERS = ["filler_share", "diameter", "density", "price", "net_mass"] as const;
const WINDOW_NUMBERS = [
  "nozzle_low", "nozzle_high", "bed_low", "bed_high", "chamber_low", "chamber_high", "speed_low", "speed_high", "flow_max", "dry_temperature", "dry_time", "dry_limit",
  "nozzle_min", "tolerance",
] as const; // prettier-ignore
const YES_NO = [
  { value: "", label: "not said" },
  { value: "yes", label: "needed" },
  { value: "no", label: "not needed" },
];
const OBTAINED = [
  { value: "", label: "not said" },
  { value: "bought", label: "bought" },
  { value: "sent free", label: "sent free" },
  { value: "own", label: "own" },
];

function start(d: Dossier | undefined, isNew: boolean): Record<string, string> {
  const m = d?.material;
  const w = d?.window;
  const values: Record<string, string> = {
    maker: m?.maker ?? "", product: m?.product ?? "", polymer: m?.polymer ?? "", filler: m?.filler ?? "", colour: isNew ? "" : (m?.colour ?? ""), hex: m?.hex ?? NEUTRAL,
    mark: isNew ? "" : (m?.mark ?? ""), currency: m?.currency ?? "€", obtained: m?.obtained ?? "", note: isNew ? "" : (m?.note ?? ""), bed_surface: w?.bed_surface ?? "", adhesive: w?.adhesive ?? "",
    source: w?.source ?? "", hardened: yes(w?.hardened), enclosure: yes(w?.enclosure),
  }; // prettier-ignore
  for (const k of NUMBERS) values[k] = k === "diameter" ? typed(m?.diameter ?? 1.75) : typed(m?.[k]);
  for (const k of WINDOW_NUMBERS) values[k] = typed(w?.[k]);
  return values;
}

function yes(value: boolean | null | undefined): string {
  return value === null || value === undefined ? "" : value ? "yes" : "no";
}

/** What is registered of a material, and what its maker asks for, laid out as a label and a data sheet are. */
export function MaterialForm({ dossier, isNew = false, onDone }: MaterialFormProps) {
  const [values, setValues] = useState(() => start(dossier, isNew));
  const [id] = useState(() => newId());
  const { questions, confirmed, problem, attempt, drop, confirm } = useAsking();
  const [busy, setBusy] = useState(false);
  const queries = useQueryClient();
  const get = (name: string) => values[name] ?? "";
  const set = (name: string, value: string) => setValues((v) => ({ ...v, [name]: value }));
  const bad = [...NUMBERS, ...WINDOW_NUMBERS].find((k) => readNumber(get(k)) === undefined);
  const errorOf = (name: string) => {
    if (readNumber(get(name)) === undefined && ([...NUMBERS, ...WINDOW_NUMBERS] as string[]).includes(name)) return "not a plain number";
    return problem?.field === name || problem?.field === `window.${name}` ? problem.text : null;
  };
  const save = async () => {
    if (bad) return;
    setBusy(true);
    await attempt(async () => {
      const body = bodyOf(values, confirmed);
      let key = id;
      if (isNew || !dossier) unwrap(await client.POST("/api/materials", { body: { id, ...body } }));
      else {
        key = dossier.material.id;
        const header = { "if-match": `"${dossier.material.revision}"` };
        unwrap(await client.PATCH("/api/materials/{material_id}", { params: { path: { material_id: key }, header }, body: { ...body, ...(get("mark") ? { mark: get("mark") } : {}) } }));
      }
      refreshStock(queries);
      onDone(key);
    });
    setBusy(false);
  };
  const typedWindow = bad || !WINDOW_NUMBERS.some((k) => get(k)) ? null : windowOf(values);
  const text = (name: string, label: string, more: { required?: boolean; placeholder?: string } = {}) => (
    <TextInput key={name} label={label} name={name} value={get(name)} onChange={(e) => set(name, e.currentTarget.value)} error={errorOf(name)} {...more} />
  );
  const number = (name: string, label: string) => (
    <TextInput key={name} label={label} name={name} inputMode="decimal" value={get(name)} onChange={(e) => set(name, e.currentTarget.value)} error={errorOf(name)} />
  );
  const span = (name: string, label: string) => (
    <Span key={name} label={label}>
      <TextInput aria-label={`${label}, from`} inputMode="decimal" value={get(`${name}_low`)} onChange={(e) => set(`${name}_low`, e.currentTarget.value)} error={errorOf(`${name}_low`)} />
      <span aria-hidden="true">–</span>
      <TextInput aria-label={`${label}, to`} inputMode="decimal" value={get(`${name}_high`)} onChange={(e) => set(`${name}_high`, e.currentTarget.value)} error={errorOf(`${name}_high`)} />
    </Span>
  );
  const pick = (name: string, label: string, data: { value: string; label: string }[]) => <Select key={name} label={label} data={data} value={get(name)} onChange={(v) => set(name, v ?? "")} />;
  return (
    <form
      className={css.form}
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <fieldset className={css.part}>
        <legend>What it is</legend>
        <div className={css.grid}>
          {text("maker", "Maker", { required: true })}
          {text("product", "Product", { required: true })}
          {text("colour", "Colour", { required: true })}
          <div className={css.colour}>
            <Swatch hex={/^#[0-9a-f]{6}$/i.test(get("hex")) ? get("hex") : NEUTRAL} mark={get("mark") || `${get("maker").slice(0, 1).toUpperCase()}${get("colour").slice(0, 1).toLowerCase()}`} filled={Boolean(get("filler"))} size={36} title="how it will be shown" />
            <ColorInput label="as on the spool" value={get("hex")} onChange={(hex) => set("hex", hex)} format="hex" error={errorOf("hex")} eyeDropperButtonProps={{ "aria-label": "take the colour from the screen" }} />
          </div>
          {text("polymer", "Base polymer", { required: true })}
          {text("filler", "Filler", { placeholder: "none" })}
          {number("filler_share", "Share, % by mass")}
          {number("diameter", "Strand, mm")}
          {number("density", "Density, g/cm³")}
          {number("net_mass", "Net on a spool, g")}
          <div className={css.price}>
            {number("price", "Price of a spool")}
            <TextInput aria-label="Currency" value={get("currency")} onChange={(e) => set("currency", e.currentTarget.value)} maxLength={3} w={58} />
          </div>
          {pick("obtained", "The sample was", OBTAINED)}
          {!isNew && dossier && text("mark", "Two-letter mark")}
        </div>
      </fieldset>
      <fieldset className={css.part}>
        <legend>What the maker asks for</legend>
        {typedWindow && (
          <div className={css.preview}>
            <HeatWindow window={typedWindow} accent={/^#[0-9a-f]{6}$/i.test(get("hex")) ? get("hex") : "var(--raised)"} />
          </div>
        )}
        <div className={css.grid}>
          {span("nozzle", "Nozzle, °C")}
          {span("bed", "Bed, °C")}
          {span("chamber", "Chamber, °C")}
          {span("speed", "Speed, mm/s")}
          {number("dry_temperature", "Dry at, °C")}
          {number("dry_time", "Dry for, h")}
          {number("dry_limit", "Dry at most at, °C")}
          {number("flow_max", "Flow at most, mm³/s")}
          {number("nozzle_min", "Least nozzle, mm")}
          {pick("hardened", "Hardened nozzle", YES_NO)}
          {pick("enclosure", "Enclosure", YES_NO)}
          {number("tolerance", "Diameter ±, mm")}
          {text("bed_surface", "Bed surface")}
          {text("adhesive", "Adhesive")}
          {text("source", "Where it says so", { placeholder: "label, data sheet …" })}
        </div>
      </fieldset>
      <Textarea label="Note" value={get("note")} onChange={(e) => set("note", e.currentTarget.value)} autosize minRows={1} maxLength={2000} />
      <Questions
        questions={questions}
        onLikely={(q, likely) => {
          set(q.field, likely);
          drop(q);
        }}
        onConfirm={confirm}
      />
      {problem && (
        <p role="alert" style={{ color: "var(--worse)", margin: 0 }}>
          {problem.text}
        </p>
      )}
      <div>
        <Button type="submit" loading={busy} disabled={Boolean(bad) || questions.length > 0}>
          {isNew || !dossier ? "Register" : "Save"}
        </Button>
      </div>
    </form>
  );
}

function Span({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div>
      <div className={css.spanLabel}>{label}</div>
      <div className={css.span}>{children}</div>
    </div>
  );
}

function windowOf(values: Record<string, string>) {
  const get = (name: string) => values[name] ?? "";
  const flag = (name: string) => (get(name) ? get(name) === "yes" : null);
  const numbers = Object.fromEntries(WINDOW_NUMBERS.map((k) => [k, readNumber(get(k)) ?? null])) as Record<(typeof WINDOW_NUMBERS)[number], number | null>;
  return { ...numbers, hardened: flag("hardened"), enclosure: flag("enclosure"), bed_surface: get("bed_surface"), adhesive: get("adhesive"), source: get("source") };
}

function bodyOf(values: Record<string, string>, confirmed: string[]) {
  const get = (name: string) => values[name] ?? "";
  const number = (name: string) => readNumber(get(name)) ?? null;
  const obtained = get("obtained") as Schemas["NewMaterial"]["obtained"];
  return {
    maker: get("maker"),
    product: get("product"),
    polymer: get("polymer"),
    filler: get("filler").trim() || null,
    filler_share: number("filler_share"),
    colour: get("colour"),
    hex: get("hex").toUpperCase(),
    diameter: number("diameter") ?? 1.75,
    density: number("density"),
    price: number("price"),
    currency: number("price") === null ? "" : get("currency"),
    net_mass: number("net_mass"),
    obtained,
    note: get("note"),
    window: windowOf(values),
    confirmed,
  };
}
