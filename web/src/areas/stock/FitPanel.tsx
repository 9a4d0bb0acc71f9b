import { Button, Select, TextInput } from "@mantine/core";
import { useDebouncedValue, useLocalStorage } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { fitOptions, printersOptions } from "../../api/queries/printing";
import { messageOf } from "../../api/client";
import { Refusal } from "../../ui/Notes";
import { readNumber, typed } from "../../ui/number";
import { PrinterForm } from "./PrinterForm";
import css from "./fit.module.css";
import { Questions } from "../../ui/Questions";

const FIELDS = [
  ["nozzle_temperature", "Nozzle", "°C"],
  ["bed_temperature", "Bed", "°C"],
  ["chamber_temperature", "Chamber", "°C"],
  ["line_width", "Line width", "mm"],
  ["layer_height", "Layer", "mm"],
  ["speed", "Speed", "mm/s"],
  ["mass", "Job takes", "g"],
] as const;
type FieldName = (typeof FIELDS)[number][0];

/** Is this spool fit for that printer with those settings? What is missed, and who says so. */
export function FitPanel({ spool }: { spool: Schemas["SpoolPage"] }) {
  const printers = useQuery(printersOptions());
  const w = spool.window;
  const [printer, setPrinter] = useLocalStorage<string | null>({ key: "assayer.printer", defaultValue: null, getInitialValueInEffect: false });
  const [values, setValues] = useState(() => begin(w));
  const [form, setForm] = useState<"new" | "edit" | null>(null);
  const [settled, setSettled] = useState<readonly string[]>([]);
  const [slow] = useDebouncedValue(values, 150);
  const numbers = Object.fromEntries(FIELDS.map(([k]) => [k, readNumber(slow[k]) ?? null])) as Record<FieldName, number | null>;
  const chosen = (printers.data?.items.find((p) => p.id === printer) ?? printers.data?.items[0]) ?? null;
  const known = chosen?.id ?? null;
  const fit = useQuery(fitOptions({ spool_id: spool.id, printer_id: known, settings: { ...numbers, adhesive: w.adhesive } }, `${String(spool.revision)} ${String(chosen?.revision ?? 0)}`));
  return (
    <section className={css.fit} aria-label="Fit to print">
      <div className={css.top}>
        <h2>Fit to print?</h2>
        <Select
          aria-label="Printer"
          placeholder="on which printer"
          data={[...(printers.data?.items ?? []).map((p) => ({ value: p.id, label: p.name })), ...(known ? [{ value: "edit", label: "change this printer …" }] : []), { value: "new", label: "another printer …" }]}
          value={known}
          onChange={(v) => (v === "new" || v === "edit" ? setForm(v) : setPrinter(v))}
          w={190}
        />
      </div>
      {form && (
        <PrinterForm
          key={form}
          printer={form === "edit" ? chosen : null}
          onDone={(id) => {
            setForm(null);
            if (id) setPrinter(id);
          }}
        />
      )}
      <div className={css.settings}>
        {FIELDS.map(([name, label, unit]) => (
          <TextInput
            key={name}
            label={`${label}, ${unit}`}
            value={values[name]}
            inputMode="decimal"
            onChange={(e) => setValues({ ...values, [name]: e.currentTarget.value })}
            error={readNumber(values[name]) === undefined}
            size="xs"
          />
        ))}
        <div className={css.flow}>
          flow <span className="figure">{fit.data?.flow != null ? fit.data.flow.toFixed(1) : "–"}</span> mm³/s
          {w.flow_max !== null && <span className="soft"> of {w.flow_max}</span>}
        </div>
      </div>
      <div className={css.asks}>
        <Questions
          questions={(fit.data?.questions ?? []).filter((q) => !settled.includes(q.key))}
          onLikely={(q, likely) => setValues({ ...values, [q.field]: likely })}
          onConfirm={(q) => setSettled([...settled, q.key])}
        />
      </div>
      {fit.data?.sheet && (
        <p className={css.asks} style={{ margin: "0.3rem 0" }}>
          printed here with <Link to="/dial-in/sheets/$sheetId" params={{ sheetId: fit.data.sheet.id }}>{fit.data.sheet.name}</Link>{" "}
          {Object.values(values).some(Boolean) ? (
            <Button size="compact-sm" variant="subtle" onClick={() => setValues(EMPTY)}>
              check that sheet
            </Button>
          ) : (
            <span className="soft">· what stands above empty is taken from it</span>
          )}
        </p>
      )}
      {fit.isError && <Refusal text={messageOf(fit.error)} />}
      {fit.data && <Report report={fit.data} />}
    </section>
  );
}

const EMPTY = Object.fromEntries(FIELDS.map(([name]) => [name, ""])) as Record<FieldName, string>;

/** The maker's middle values, and the usual bead. */
function begin(w: Schemas["SpoolPage"]["window"]): Record<FieldName, string> {
  const middle = (a: number | null, b: number | null) => typed(a !== null && b !== null ? Math.round((a + b) / 2) : (a ?? b));
  return {
    nozzle_temperature: middle(w.nozzle_low, w.nozzle_high),
    bed_temperature: middle(w.bed_low, w.bed_high),
    chamber_temperature: "",
    line_width: "0.45",
    layer_height: "0.2",
    speed: "60",
    mass: "",
  };
}

/** What is missed, the gravest first, and what could not be checked. */
function Report({ report }: { report: Schemas["FitView"] }) {
  return (
    <div aria-live="polite">
      <p className={css.word} data-fit={report.fit || undefined}>
        {!report.fit ? "✕ not yet" : report.misses.length ? "✓ may be printed, knowingly" : report.unchecked.length ? "✓ nothing is missed of what could be checked" : "✓ nothing is missed"}
      </p>
      <ul className={css.misses}>
        {report.misses.map((m) => (
          <li key={m.rule + m.text} data-level={m.level}>
            <span>
              <strong>{m.level === "must" ? "stop:" : "mind:"}</strong> {m.text}
            </span>
            <span className="soft">{m.source}</span>
          </li>
        ))}
      </ul>
      {report.unchecked.length > 0 && <p className={css.unchecked}>Not checked, for want of a statement: {report.unchecked.join("; ")}.</p>}
    </div>
  );
}
