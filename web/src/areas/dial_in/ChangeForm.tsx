import { Button, Checkbox, NativeSelect, TextInput } from "@mantine/core";
import { useLocalStorage } from "@mantine/hooks";
import { useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { localMinute } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import { Questions } from "../../ui/Questions";
import { useAsking } from "../../ui/useAsking";
import type { Hardware } from "./HardwarePage";
import css from "./trail.module.css";

type Printer = Hardware["printers"][number];
type Change = Printer["changes"][number];
type Kind = Schemas["NewPrinterChange"]["kind"];

const KINDS: readonly Kind[] = ["nozzle", "bed surface", "frame", "feeder", "filter", "repair", "other"];

interface Draft {
  kind: Kind;
  text: string;
  /** The nozzle or surface that is on it from then. */
  what: string;
  retire: boolean;
  /** Local time as typed; empty: now. */
  at: string;
}

const draftOf = (c: Change | null): Draft =>
  c
    ? { kind: c.kind as Kind, text: c.own, what: c.nozzle_id ?? c.bed_surface_id ?? "", retire: c.retires, at: localMinute(c.at) }
    : { kind: "nozzle", text: "", what: "", retire: false, at: "" };

interface ChangeFormProps {
  printer: Printer;
  /** The one that is corrected; null: a new one. */
  change: Change | null;
  hardware: Hardware;
  onDone: () => void;
  onLeave?: () => void;
}

/** A change of a printer: now, or on a past day; what is on the printer follows from the changes in their order. */
export function ChangeForm({ printer, change, hardware, onDone, onLeave }: ChangeFormProps) {
  const [start] = useState(() => draftOf(change));
  // kept until the server has taken it: a reload loses nothing
  const [draft, setDraft, forget] = useLocalStorage({ key: `assayer.change.${change ? `${change.id}.${String(change.revision)}` : printer.id}`, defaultValue: start, getInitialValueInEffect: false });
  const [id, setId] = useState(() => newId());
  const asking = useAsking();
  const set = (more: Partial<Draft>) => {
    asking.reset();
    setDraft({ ...draft, ...more });
  };
  const { kind, text, what, retire, at } = draft;
  const parts = partsFor(kind, printer, hardware, what);
  const ready = parts ? what !== "" : text.trim() !== "";
  const save = async (confirmed: string[] = []) => {
    const body = { at: (at ? new Date(at) : new Date()).toISOString(), kind, text, nozzle_id: kind === "nozzle" ? what : null, bed_surface_id: kind === "bed surface" ? what : null, retire: parts ? retire : false, confirmed };
    const saved = await asking.attempt(async () =>
      unwrap<Hardware>(
        change
          ? await client.PATCH("/api/printer-changes/{change_id}", { params: { path: { change_id: change.id }, header: { "if-match": `"${String(change.revision)}"` } }, body })
          : await client.POST("/api/printers/{printer_id}/changes", { params: { path: { printer_id: printer.id } }, body: { id, ...body } }),
      ),
    );
    if (!saved) return;
    forget();
    setId(newId());
    onDone();
  };
  return (
    <form
      className={css.acts}
      aria-label={change ? `Correct a change of ${printer.name}` : `A change of ${printer.name}`}
      onSubmit={(e) => {
        e.preventDefault();
        if (ready) void save();
      }}
    >
      <NativeSelect size="xs" label="what changed" value={kind} data={[...KINDS]} onChange={(e) => set({ kind: e.currentTarget.value as Kind, what: "" })} />
      {parts && <NativeSelect size="xs" label="now on it" value={what} data={[{ value: "", label: parts.length ? "…" : "none in the drawer: add one below" }, ...parts.map((n) => ({ value: n.id, label: n.name }))]} onChange={(e) => set({ what: e.currentTarget.value })} />}
      <TextInput size="xs" label={parts ? "note" : "what was done"} value={text} onChange={(e) => set({ text: e.currentTarget.value })} />
      <TextInput size="xs" type="datetime-local" label={change ? "on" : "on, now unless a time is given"} value={at} onChange={(e) => set({ at: e.currentTarget.value })} />
      {parts && <Checkbox size="xs" label="the one before is worn or ruined" checked={retire} onChange={(e) => set({ retire: e.currentTarget.checked })} />}
      <Button type="submit" size="xs" variant="default" disabled={!ready}>
        {change ? "Save" : "Note it"}
      </Button>
      {onLeave && (
        <Button size="xs" variant="subtle" onClick={onLeave}>
          Leave it
        </Button>
      )}
      <Questions
        questions={asking.questions}
        onLikely={(q, likely) => {
          if (q.field === "at") set({ at: localMinute(likely) });
          else asking.drop(q);
        }}
        onConfirm={(q) => void save(asking.confirm(q).keys)}
      />
      <Refusal text={asking.problem?.text} />
    </form>
  );
}

/** What may be on it from then: what is not retired, and what is named already. */
function partsFor(kind: Kind, printer: Printer, hardware: Hardware, named: string): { id: string; name: string }[] | null {
  if (kind === "nozzle") return hardware.nozzles.filter((n) => n.id === named || (!n.retired_at && n.id !== printer.nozzle_id));
  if (kind === "bed surface") return hardware.bed_surfaces.filter((b) => b.id === named || (!b.retired_at && b.id !== printer.bed_surface_id));
  return null;
}
