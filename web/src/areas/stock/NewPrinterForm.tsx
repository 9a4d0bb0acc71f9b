import { Button, Checkbox, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { readNumber } from "../../ui/number";
import css from "./fit.module.css";

const NUMBERS = [
  ["nozzle", "Nozzle, mm"],
  ["nozzle_hottest", "Nozzle at most, °C"],
  ["bed_hottest", "Bed at most, °C"],
  ["chamber_hottest", "Chamber at most, °C"],
] as const;

/** A printer as it stands, so that every check knows its hardware. */
export function NewPrinterForm({ onDone }: { onDone: (id: string | null) => void }) {
  const [id] = useState(() => newId());
  const [name, setName] = useState("");
  const [surface, setSurface] = useState("");
  const [hardened, setHardened] = useState(false);
  const [enclosed, setEnclosed] = useState(false);
  const [values, setValues] = useState<Record<string, string>>({ nozzle: "0.4" });
  const [problem, setProblem] = useState<string | null>(null);
  const queries = useQueryClient();
  const save = async () => {
    try {
      const numbers = Object.fromEntries(NUMBERS.map(([k]) => [k, readNumber(values[k] ?? "") ?? null]));
      const made = unwrap<Schemas["PrinterView"]>(await client.POST("/api/printers", { body: { id, name, bed_surface: surface, hardened, enclosed, strand: 1.75, ...numbers } }));
      await queries.invalidateQueries({ queryKey: ["printers"] });
      onDone(made.id);
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <form
      className={css.printer}
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <TextInput label="Name" value={name} onChange={(e) => setName(e.currentTarget.value)} required size="xs" error={problem} />
      {NUMBERS.map(([k, label]) => (
        <TextInput key={k} label={label} value={values[k] ?? ""} onChange={(e) => setValues({ ...values, [k]: e.currentTarget.value })} inputMode="decimal" size="xs" error={readNumber(values[k] ?? "") === undefined} />
      ))}
      <TextInput label="Bed surface" value={surface} onChange={(e) => setSurface(e.currentTarget.value)} size="xs" />
      <Checkbox label="hardened nozzle" checked={hardened} onChange={(e) => setHardened(e.currentTarget.checked)} />
      <Checkbox label="enclosed" checked={enclosed} onChange={(e) => setEnclosed(e.currentTarget.checked)} />
      <div style={{ display: "flex", gap: 8 }}>
        <Button type="submit" size="xs" disabled={!name.trim()}>
          Add
        </Button>
        <Button size="xs" variant="subtle" onClick={() => onDone(null)}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
