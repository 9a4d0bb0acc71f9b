import { Button, ColorInput, Select, Textarea, TextInput } from "@mantine/core";
import { type UseFormReturnType } from "@mantine/form";
import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect, useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { refreshStock } from "../../api/queries/stock";
import { HeatWindow } from "../../figures/HeatWindow";
import { Refusal } from "../../ui/Notes";
import { readNumber, typed } from "../../ui/number";
import { Questions } from "../../ui/Questions";
import { Statements } from "../../ui/Statements";
import { NEUTRAL, Swatch } from "../../ui/Swatch";
import { useAsking } from "../../ui/useAsking";
import { Restored, useDraftForm } from "../../ui/useDraftForm";
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
const NOTED = [
  { value: "", label: "not said" },
  { value: "yes", label: "noted: draw it off" },
  { value: "no", label: "none" },
];
const OBTAINED = [
  { value: "", label: "not said" },
  { value: "bought", label: "bought" },
  { value: "sent free", label: "sent free" },
  { value: "own", label: "own" },
];

type Values = Record<string, string>;
type Form = UseFormReturnType<Values>;

function start(d: Dossier | undefined, isNew: boolean): Values {
  const m = d?.material;
  const w = d?.window;
  const values: Values = {
    maker: m?.maker ?? "", product: m?.product ?? "", polymer: m?.polymer ?? "", filler: m?.filler ?? "", colour: isNew ? "" : (m?.colour ?? ""), hex: m?.hex ?? NEUTRAL,
    mark: isNew ? "" : (m?.mark ?? ""), currency: m?.currency ?? "€", obtained: m?.obtained ?? "", note: isNew ? "" : (m?.note ?? ""), bed_surface: w?.bed_surface ?? "", adhesive: w?.adhesive ?? "",
    source: w?.source ?? "", hardened: yes(w?.hardened), enclosure: yes(w?.enclosure), fumes: yes(w?.fumes), dust: yes(w?.dust),
  }; // prettier-ignore
  for (const k of NUMBERS) values[k] = k === "diameter" ? typed(m?.diameter ?? 1.75) : typed(m?.[k]);
  for (const k of WINDOW_NUMBERS) values[k] = typed(w?.[k]);
  return values;
}

function yes(value: boolean | null | undefined): string {
  return value === null || value === undefined ? "" : value ? "yes" : "no";
}

const plainNumber = (text: string) => (readNumber(text) === undefined ? "not a plain number" : null);

/** What is registered of a material, and what its maker asks for, laid out as a label and a data sheet are. */
export function MaterialForm({ dossier, isNew = false, onDone }: MaterialFormProps) {
  const fresh = isNew || !dossier;
  const draft = useDraftForm<Values>(`assayer.form.material.${fresh ? `new.${dossier?.material.id ?? ""}` : `${dossier.material.id}.${String(dossier.material.revision)}`}`, {
    initialValues: start(dossier, isNew),
    validate: Object.fromEntries([...NUMBERS, ...WINDOW_NUMBERS].map((k) => [k, plainNumber])),
    validateInputOnChange: true,
  });
  const { form, id } = draft;
  const { questions, confirmed, problem, attempt, drop, confirm } = useAsking();
  const [busy, setBusy] = useState(false);
  const queries = useQueryClient();
  const save = async (values: Values) => {
    setBusy(true);
    await attempt(async () => {
      const body = bodyOf(values, confirmed);
      if (fresh) unwrap(await client.POST("/api/materials", { body: { id, ...body } }));
      else {
        const params = { path: { material_id: dossier.material.id }, header: { "if-match": `"${dossier.material.revision}"` } };
        unwrap(await client.PATCH("/api/materials/{material_id}", { params, body: { ...body, ...(values["mark"] ? { mark: values["mark"] } : {}) } }));
      }
      draft.forget();
      refreshStock(queries);
      onDone(fresh ? id : dossier.material.id);
    });
    setBusy(false);
  };
  const told = problem?.field?.replace("window.", "");
  const asField = told !== undefined && told in form.values;
  // the server names the field that it refused: said there until that is changed
  useEffect(() => {
    if (asField) form.setFieldError(told, problem?.text);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [problem]);
  return (
    <form className={css.form} onSubmit={form.onSubmit((values) => void save(values))}>
      <Restored draft={draft} />
      <WhatItIs form={form} marked={!fresh} />
      <WhatIsAsked form={form} />
      <Textarea label="Note" {...form.getInputProps("note")} autosize minRows={1} maxLength={2000} />
      <Statements text={form.values.note ?? ""} />
      <Questions
        questions={questions}
        onLikely={(q, likely) => {
          form.setFieldValue(q.field, likely);
          drop(q);
        }}
        onConfirm={confirm}
      />
      <Refusal text={problem?.text} />
      <div>
        <Button type="submit" loading={busy} disabled={!form.isValid() || questions.length > 0}>
          {fresh ? "Register" : "Save"}
        </Button>
      </div>
    </form>
  );
}

interface FieldProps {
  form: Form;
  name: string;
  label: string;
  required?: boolean;
  placeholder?: string;
}

function Text({ form, name, ...rest }: FieldProps) {
  return <TextInput name={name} {...form.getInputProps(name)} {...rest} />;
}

function Figure({ form, name, label }: FieldProps) {
  return <TextInput label={label} name={name} inputMode="decimal" {...form.getInputProps(name)} />;
}

function Pick({ form, name, label, data }: FieldProps & { data: { value: string; label: string }[] }) {
  return <Select label={label} data={data} {...form.getInputProps(name)} allowDeselect={false} />;
}

/** Two numbers, from and to. */
function Range({ form, name, label }: FieldProps) {
  return (
    <Span label={label}>
      <TextInput aria-label={`${label}, from`} inputMode="decimal" {...form.getInputProps(`${name}_low`)} />
      <span aria-hidden="true">–</span>
      <TextInput aria-label={`${label}, to`} inputMode="decimal" {...form.getInputProps(`${name}_high`)} />
    </Span>
  );
}

const isHex = (text: string | undefined): text is string => /^#[0-9a-f]{6}$/i.test(text ?? "");

function WhatItIs({ form, marked }: { form: Form; marked: boolean }) {
  const { maker = "", colour = "", mark, hex, filler } = form.values;
  return (
    <fieldset className={css.part}>
      <legend>What it is</legend>
      <div className={css.grid}>
        <Text form={form} name="maker" label="Maker" required />
        <Text form={form} name="product" label="Product" required />
        <Text form={form} name="colour" label="Colour" required />
        <div className={css.colour}>
          <Swatch hex={isHex(hex) ? hex : NEUTRAL} mark={mark || `${maker.slice(0, 1).toUpperCase()}${colour.slice(0, 1).toLowerCase()}`} filled={Boolean(filler)} size={36} title="how it will be shown" />
          <ColorInput label="as on the spool" {...form.getInputProps("hex")} format="hex" eyeDropperButtonProps={{ "aria-label": "take the colour from the screen" }} />
        </div>
        <Text form={form} name="polymer" label="Base polymer" required />
        <Text form={form} name="filler" label="Filler" placeholder="none" />
        <Figure form={form} name="filler_share" label="Share, % by mass" />
        <Figure form={form} name="diameter" label="Strand, mm" />
        <Figure form={form} name="density" label="Density, g/cm³" />
        <Figure form={form} name="net_mass" label="Net on a spool, g" />
        <div className={css.price}>
          <Figure form={form} name="price" label="Price of a spool" />
          <TextInput aria-label="Currency" {...form.getInputProps("currency")} maxLength={3} w={58} />
        </div>
        <Pick form={form} name="obtained" label="The sample was" data={OBTAINED} />
        {marked && <Text form={form} name="mark" label="Two-letter mark" />}
      </div>
    </fieldset>
  );
}

function WhatIsAsked({ form }: { form: Form }) {
  const { hex } = form.values;
  const window = form.isValid() && WINDOW_NUMBERS.some((k) => form.values[k]) ? windowOf(form.values) : null;
  return (
    <fieldset className={css.part}>
      <legend>What the maker asks for</legend>
      {window && (
        <div className={css.preview}>
          <HeatWindow window={window} accent={isHex(hex) ? hex : "var(--raised)"} />
        </div>
      )}
      <div className={css.grid}>
        <Range form={form} name="nozzle" label="Nozzle, °C" />
        <Range form={form} name="bed" label="Bed, °C" />
        <Range form={form} name="chamber" label="Chamber, °C" />
        <Range form={form} name="speed" label="Speed, mm/s" />
        <Figure form={form} name="dry_temperature" label="Dry at, °C" />
        <Figure form={form} name="dry_time" label="Dry for, h" />
        <Figure form={form} name="dry_limit" label="Dry at most at, °C" />
        <Figure form={form} name="flow_max" label="Flow at most, mm³/s" />
        <Figure form={form} name="nozzle_min" label="Least nozzle, mm" />
        <Pick form={form} name="hardened" label="Hardened nozzle" data={YES_NO} />
        <Pick form={form} name="enclosure" label="Enclosure" data={YES_NO} />
        <Pick form={form} name="fumes" label="Fumes" data={NOTED} />
        <Pick form={form} name="dust" label="Dust" data={NOTED} />
        <Figure form={form} name="tolerance" label="Diameter ±, mm" />
        <Text form={form} name="bed_surface" label="Bed surface" />
        <Text form={form} name="adhesive" label="Adhesive" />
        <Text form={form} name="source" label="Where it says so" placeholder="label, data sheet …" />
      </div>
    </fieldset>
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

function windowOf(values: Values) {
  const get = (name: string) => values[name] ?? "";
  const flag = (name: string) => (get(name) ? get(name) === "yes" : null);
  const numbers = Object.fromEntries(WINDOW_NUMBERS.map((k) => [k, readNumber(get(k)) ?? null])) as Record<(typeof WINDOW_NUMBERS)[number], number | null>;
  return { ...numbers, hardened: flag("hardened"), enclosure: flag("enclosure"), fumes: flag("fumes"), dust: flag("dust"), bed_surface: get("bed_surface"), adhesive: get("adhesive"), source: get("source") };
}

function bodyOf(values: Values, confirmed: string[]) {
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
