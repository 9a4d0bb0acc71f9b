import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "../../api/client";
import { printersOptions } from "../../api/queries/printing";
import { Refusal } from "../../ui/Notes";
import { readNumber, readRectangles, typed, typedRectangles } from "../../ui/number";
import { Questions } from "../../ui/Questions";
import { useAsking } from "../../ui/useAsking";
import { readDraft, Restored, useDraftForm } from "../../ui/useDraftForm";
import css from "./fit.module.css";

type Printer = Schemas["PrinterView"];

const NUMBERS = [
  ["nozzle", "Nozzle, mm"],
  ["strand", "Strand, mm"],
  ["holder", "Spool holder, mm thick"],
  ["nozzle_hottest", "Nozzle at most, °C"],
  ["bed_hottest", "Bed at most, °C"],
  ["chamber_hottest", "Chamber at most, °C"],
  ["build_x", "Build width, mm"],
  ["build_y", "Build depth, mm"],
  ["build_z", "Build height, mm"],
  ["acceleration", "Acceleration, mm/s²"],
  ["margin", "Bed kept free at edges, mm"],
  ["clearance", "Room the head needs, mm"],
  ["passes_over", "Passes over pieces up to, mm"],
] as const;
const FLAGS = [
  ["hardened", "Hardened nozzle"],
  ["enclosed", "Enclosed"],
  ["extraction", "Extraction"],
  ["filtered", "Filter"],
  ["drives_rims", "Drives the rims"],
  ["takes_refills", "Body for refills"],
  ["loads_itself", "Loads by itself"],
] as const;
const KNOWN = [
  { value: "", label: "not known" },
  { value: "yes", label: "yes" },
  { value: "no", label: "no" },
];
const plainNumber = (text: string) => (readNumber(text) === undefined ? "not a plain number" : null);
const word = (flag: boolean | null | undefined) => (flag === true ? "yes" : flag === false ? "no" : "");

function start(p: Printer | null): Record<string, string> {
  const values: Record<string, string> = { name: p?.name ?? "", bed_surface: p?.bed_surface ?? "", feeder: p?.feeder ?? "", keep_out: typedRectangles(p?.keep_out ?? []) };
  for (const [k] of NUMBERS) values[k] = p ? typed(p[k]) : ({ nozzle: "0.4", strand: "1.75" }[k as string] ?? "");
  for (const [k] of FLAGS) values[k] = word(p?.[k]);
  return values;
}

/** Under what an unfinished form is kept: of a printer as it stands, since another's changes are not to be undone by it. */
const draftKey = (printer: Printer | null) => `assayer.form.printer.${printer ? `${printer.id}.${String(printer.revision)}` : "new"}`;

/** Was a printer begun to be added, and not finished? */
export const hasPrinterDraft = () => readDraft(draftKey(null)) !== null;

/** A printer as it stands, so that every check knows its hardware; `printer` is changed, without it a new one is added. */
export function PrinterForm({ printer, onDone }: { printer: Printer | null; onDone: (id: string | null) => void }) {
  const draft = useDraftForm<Record<string, string>>(draftKey(printer), {
    initialValues: start(printer),
    validate: { ...Object.fromEntries(NUMBERS.map(([k]) => [k, plainNumber])), keep_out: (text: string) => (readRectangles(text) === null ? "four numbers each: left, front, right, back" : null) },
    validateInputOnChange: true,
  });
  const { form, id } = draft;
  const queries = useQueryClient();
  const asking = useAsking();
  const keep = (values: Record<string, string>, confirmed: string[]) =>
    asking.attempt(async () => {
      const numbers = Object.fromEntries(NUMBERS.map(([k]) => [k, readNumber(values[k] ?? "") ?? null])) as Record<(typeof NUMBERS)[number][0], number | null>;
      const flags = Object.fromEntries(FLAGS.map(([k]) => [k, values[k] ? values[k] === "yes" : null])) as Record<(typeof FLAGS)[number][0], boolean | null>;
      const hardware = { ...numbers, ...flags, bed_surface: values["bed_surface"] ?? "", feeder: values["feeder"] ?? "", keep_out: readRectangles(values["keep_out"] ?? "") ?? [], confirmed };
      const kept = unwrap<Printer>(
        printer
          ? await client.PATCH("/api/printers/{printer_id}", { params: { path: { printer_id: printer.id }, header: { "if-match": `"${printer.revision}"` } }, body: hardware })
          : await client.POST("/api/printers", { body: { ...hardware, id, name: values["name"] ?? "" } }),
      );
      draft.forget();
      await queries.invalidateQueries({ queryKey: printersOptions().queryKey });
      onDone(kept.id);
    });
  const save = form.onSubmit((values) => void keep(values, asking.confirmed));
  return (
    <form className={css.printer} onSubmit={save}>
      <Restored draft={draft} />
      <TextInput label="Name" {...form.getInputProps("name")} required size="xs" readOnly={printer !== null} />
      <TextInput label="Bed surface" {...form.getInputProps("bed_surface")} size="xs" />
      <TextInput label="Feeder" {...form.getInputProps("feeder")} size="xs" />
      {NUMBERS.map(([k, label]) => (
        <TextInput key={k} label={label} {...form.getInputProps(k)} inputMode="decimal" size="xs" />
      ))}
      <TextInput label="Kept free: left front right back, mm" placeholder="0 0 40 15; 180 0 220 15" title="rectangles of the bed, each left, front, right, back from its front left corner; apart by semicolons" {...form.getInputProps("keep_out")} size="xs" />
      {FLAGS.map(([k, label]) => (
        <NativeSelect key={k} label={label} data={KNOWN} {...form.getInputProps(k)} size="xs" />
      ))}
      <Questions
        questions={asking.questions}
        onLikely={(q, likely) => {
          form.setFieldValue(q.field, likely);
          asking.drop(q);
        }}
        onConfirm={(q) => {
          const { keys, last } = asking.confirm(q);
          if (last) void keep(form.getValues(), keys);
        }}
      />
      <Refusal text={asking.problem?.text} />
      <div style={{ display: "flex", gap: 8 }}>
        <Button type="submit" size="xs" disabled={!form.values["name"]?.trim()}>
          {printer ? "Save" : "Add"}
        </Button>
        <Button size="xs" variant="subtle" onClick={() => { draft.reset(); onDone(null); }}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
