import { Button, Checkbox, NativeSelect, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, type Schemas, unwrap } from "../../api/client";
import { newId, sentAt } from "../../api/ids";
import { hardwareOptions } from "../../api/queries/dialIn";
import { printersOptions } from "../../api/queries/printing";
import { useIds } from "../../api/useIds";
import { amount, onDay, short } from "../../ui/format";
import { ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { readNumber } from "../../ui/number";
import { useAsking } from "../../ui/useAsking";
import { Questions } from "../../ui/Questions";
import { PrinterForm } from "../stock/PrinterForm";
import { Wide } from "../../ui/Wide";
import css from "./trail.module.css";

type Hardware = Schemas["HardwareView"];

/** Printers with what is on them and what changed about them; nozzles and bed surfaces, with what they have seen. */
export function HardwarePage() {
  const found = useQuery(hardwareOptions());
  const printers = useQuery(printersOptions());
  const [editing, setEditing] = useState<string | null>(null);
  const queries = useQueryClient();
  const done = () => {
    setEditing(null);
    refresh(queries, "/api/hardware", "/api/printers");
  };
  if (found.isError) return <ErrorNote error={found.error} again={() => void found.refetch()} />;
  if (found.isPending || printers.isPending) return <Waiting what="Reading the hardware …" />;
  const h = found.data;
  return (
    <div className="page">
      <h1>Printers, nozzles, bed surfaces</h1>
      {h.printers.map((p) => {
        const kept = printers.data?.items.find((x) => x.id === p.id) ?? null;
        return (
          <section key={p.id} aria-label={p.name} style={{ margin: "1rem 0 1.6rem" }}>
            <h2>
              {p.name} <span className={css.hint}>{p.facts}</span>
            </h2>
            <p className={css.facts}>
              nozzle: <strong>{h.nozzles.find((n) => n.id === p.nozzle_id)?.name ?? (kept?.nozzle ? amount(kept.nozzle, "mm", 1) : "not named")}</strong> · on the bed: <strong>{h.bed_surfaces.find((b) => b.id === p.bed_surface_id)?.name ?? (kept?.bed_surface || "not named")}</strong>{" "}
              <Button size="compact-xs" variant="subtle" onClick={() => setEditing(editing === p.id ? null : p.id)}>
                change its facts
              </Button>
            </p>
            {editing === p.id && <PrinterForm printer={kept} onDone={done} />}
            <ChangeForm printer={p} hardware={h} onDone={done} />
            <ul style={{ margin: "0.5rem 0", paddingLeft: "1.1rem" }}>
              {p.changes.map((c) => (
                <li key={c.id}>
                  <span className="soft">{onDay(c.at)}</span> {c.kind}: {c.text} <span className="soft">by {c.who}</span>
                </li>
              ))}
            </ul>
          </section>
        );
      })}
      {editing === "new" ? (
        <PrinterForm printer={null} onDone={done} />
      ) : (
        <Button variant="default" onClick={() => setEditing("new")}>
          Add a printer
        </Button>
      )}
      <Nozzles hardware={h} onDone={done} />
      <Surfaces hardware={h} onDone={done} />
    </div>
  );
}

const KINDS = ["nozzle", "bed surface", "bracing", "feeder", "filter", "repair", "other"] as const;

function ChangeForm({ printer, hardware, onDone }: { printer: Hardware["printers"][number]; hardware: Hardware; onDone: () => void }) {
  const [kind, setKind] = useState<(typeof KINDS)[number]>("nozzle");
  const [text, setText] = useState("");
  const [what, setWhat] = useState("");
  const [retire, setRetire] = useState(false);
  const [id, setId] = useState(() => newId());
  const asking = useAsking();
  const parts = kind === "nozzle" ? hardware.nozzles.filter((n) => !n.retired_at && n.id !== printer.nozzle_id) : kind === "bed surface" ? hardware.bed_surfaces.filter((b) => !b.retired_at && b.id !== printer.bed_surface_id) : null;
  const ready = parts ? what !== "" : text.trim() !== "";
  const keep = async (confirmed: string[] = []) => {
    const body = { id, at: sentAt(id), kind, text, nozzle_id: kind === "nozzle" ? what : null, bed_surface_id: kind === "bed surface" ? what : null, retire, confirmed };
    const went = await asking.attempt(async () => unwrap<Hardware>(await client.POST("/api/printers/{printer_id}/changes", { params: { path: { printer_id: printer.id } }, body })));
    if (!went) return;
    setText("");
    setWhat("");
    setRetire(false);
    setId(newId());
    onDone();
  };
  return (
    <form
      className={css.acts}
      aria-label={`A change of ${printer.name}`}
      onSubmit={(e) => {
        e.preventDefault();
        if (ready) void keep();
      }}
    >
      <NativeSelect size="xs" label="what changed today" value={kind} data={[...KINDS]} onChange={(e) => { setKind(e.currentTarget.value as typeof kind); setWhat(""); }} />
      {parts && <NativeSelect size="xs" label="now on it" value={what} data={[{ value: "", label: parts.length ? "…" : "none in the drawer: add one below" }, ...parts.map((n) => ({ value: n.id, label: n.name }))]} onChange={(e) => setWhat(e.currentTarget.value)} />}
      <TextInput size="xs" label={parts ? "note" : "what was done"} value={text} onChange={(e) => setText(e.currentTarget.value)} />
      {parts && <Checkbox size="xs" label="the one before is worn or ruined" checked={retire} onChange={(e) => setRetire(e.currentTarget.checked)} />}
      <Button type="submit" size="xs" variant="default" disabled={!ready}>
        Note it
      </Button>
      <Questions questions={asking.questions} onLikely={asking.drop} onConfirm={(q) => void keep(asking.confirm(q).keys)} />
      <Refusal text={asking.problem?.text} />
    </form>
  );
}

function Nozzles({ hardware, onDone }: { hardware: Hardware; onDone: () => void }) {
  const [draft, setDraft] = useState({ name: "", diameter: "", material: "", hardened: false });
  const asking = useAsking();
  const ids = useIds();
  const diameter = readNumber(draft.diameter);
  const add = async () => {
    const told = { ...draft, diameter: diameter ?? 0 };
    const went = await asking.attempt(() => ids.sent(JSON.stringify(told), async (id) => unwrap<Hardware>(await client.POST("/api/nozzles", { body: { id, ...told } }))));
    if (!went) return;
    setDraft({ name: "", diameter: "", material: "", hardened: false });
    onDone();
  };
  return (
    <section aria-label="Nozzles" style={{ marginTop: "1.6rem" }}>
      <h2>Nozzles</h2>
      {hardware.nozzles.length > 0 && (
        <Wide label="All nozzles"><table className="plain" style={{ maxWidth: 820 }}>
          <thead>
            <tr>
              <th>nozzle</th>
              <th className="num">bore, mm</th>
              <th>of</th>
              <th>where</th>
              <th className="num">abrasive filament, g</th>
            </tr>
          </thead>
          <tbody>
            {hardware.nozzles.map((n) => (
              <tr key={n.id}>
                <td>{n.name}</td>
                <td className="num">{short(n.diameter)}</td>
                <td>{[n.material, n.hardened ? "hardened" : ""].filter(Boolean).join(", ")}</td>
                <td>{n.retired_at ? `retired ${onDay(n.retired_at)}` : (hardware.printers.find((p) => p.id === n.printer_id)?.name ?? "in the drawer")}</td>
                <td className="num">{Math.round(n.abrasive)}</td>
              </tr>
            ))}
          </tbody>
        </table></Wide>
      )}
      <form
        className={css.acts}
        style={{ marginTop: 8 }}
        onSubmit={(e) => {
          e.preventDefault();
          if (draft.name.trim() && diameter) void add();
        }}
      >
        <TextInput size="xs" label="name" value={draft.name} onChange={(e) => setDraft({ ...draft, name: e.currentTarget.value })} />
        <TextInput size="xs" label="bore, mm" w={90} inputMode="decimal" value={draft.diameter} error={diameter === undefined} onChange={(e) => setDraft({ ...draft, diameter: e.currentTarget.value })} />
        <TextInput size="xs" label="made of" value={draft.material} onChange={(e) => setDraft({ ...draft, material: e.currentTarget.value })} />
        <Checkbox size="xs" label="hardened" checked={draft.hardened} onChange={(e) => setDraft({ ...draft, hardened: e.currentTarget.checked })} />
        <Button type="submit" size="xs" variant="default" disabled={!draft.name.trim() || !diameter}>
          Add a nozzle
        </Button>
        <Refusal text={asking.problem?.text} />
      </form>
    </section>
  );
}

function Surfaces({ hardware, onDone }: { hardware: Hardware; onDone: () => void }) {
  const [name, setName] = useState("");
  const asking = useAsking();
  const ids = useIds();
  const add = async () => {
    const went = await asking.attempt(() => ids.sent(name, async (id) => unwrap<Hardware>(await client.POST("/api/bed-surfaces", { body: { id, name, note: "" } }))));
    if (!went) return;
    setName("");
    onDone();
  };
  return (
    <section aria-label="Bed surfaces" style={{ marginTop: "1.6rem" }}>
      <h2>Bed surfaces</h2>
      <ul style={{ margin: "0.3rem 0", paddingLeft: "1.1rem" }}>
        {hardware.bed_surfaces.map((b) => (
          <li key={b.id}>
            {b.name} <span className="soft">{b.retired_at ? `ruined ${onDay(b.retired_at)}` : (hardware.printers.find((p) => p.id === b.printer_id)?.name ?? "put aside")}</span>
          </li>
        ))}
      </ul>
      <form
        className={css.acts}
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim()) void add();
        }}
      >
        <TextInput size="xs" label="name" value={name} onChange={(e) => setName(e.currentTarget.value)} />
        <Button type="submit" size="xs" variant="default" disabled={!name.trim()}>
          Add a surface
        </Button>
        <Refusal text={asking.problem?.text} />
      </form>
    </section>
  );
}
