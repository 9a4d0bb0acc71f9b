import { Button, Checkbox, TextInput } from "@mantine/core";
import { useForm } from "@mantine/form";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { printersOptions } from "../../api/queries/printing";
import { readNumber } from "../../ui/number";
import css from "./fit.module.css";

const NUMBERS = [
  ["nozzle", "Nozzle, mm"],
  ["nozzle_hottest", "Nozzle at most, °C"],
  ["bed_hottest", "Bed at most, °C"],
  ["chamber_hottest", "Chamber at most, °C"],
] as const;
const plainNumber = (text: string) => (readNumber(text) === undefined ? "not a plain number" : null);

/** A printer as it stands, so that every check knows its hardware. */
export function NewPrinterForm({ onDone }: { onDone: (id: string | null) => void }) {
  const [id] = useState(() => newId());
  const form = useForm({
    initialValues: { name: "", bed_surface: "", hardened: false, enclosed: false, nozzle: "0.4", nozzle_hottest: "", bed_hottest: "", chamber_hottest: "" },
    validate: Object.fromEntries(NUMBERS.map(([k]) => [k, plainNumber])),
    validateInputOnChange: true,
  });
  const queries = useQueryClient();
  const save = form.onSubmit(async (values) => {
    try {
      const numbers = Object.fromEntries(NUMBERS.map(([k]) => [k, readNumber(values[k]) ?? null])) as Record<(typeof NUMBERS)[number][0], number | null>;
      const made = unwrap<Schemas["PrinterView"]>(await client.POST("/api/printers", { body: { ...values, ...numbers, id, strand: 1.75 } }));
      await queries.invalidateQueries({ queryKey: printersOptions().queryKey });
      onDone(made.id);
    } catch (error) {
      form.setFieldError("name", messageOf(error));
    }
  });
  return (
    <form className={css.printer} onSubmit={save}>
      <TextInput label="Name" {...form.getInputProps("name")} required size="xs" />
      {NUMBERS.map(([k, label]) => (
        <TextInput key={k} label={label} {...form.getInputProps(k)} inputMode="decimal" size="xs" />
      ))}
      <TextInput label="Bed surface" {...form.getInputProps("bed_surface")} size="xs" />
      <Checkbox label="hardened nozzle" {...form.getInputProps("hardened", { type: "checkbox" })} />
      <Checkbox label="enclosed" {...form.getInputProps("enclosed", { type: "checkbox" })} />
      <div style={{ display: "flex", gap: 8 }}>
        <Button type="submit" size="xs" disabled={!form.values.name.trim()}>
          Add
        </Button>
        <Button size="xs" variant="subtle" onClick={() => onDone(null)}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
