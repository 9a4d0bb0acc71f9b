import { Button } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { hardwareOptions, hardwareRecordOptions } from "../../api/queries/dialIn";
import { printersOptions } from "../../api/queries/printing";
import { amount, onDay } from "../../ui/format";
import { ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { Record } from "../../ui/Record";
import { hasPrinterDraft, PrinterForm } from "../stock/PrinterForm";
import { ChangeForm } from "./ChangeForm";
import { Nozzles, Surfaces } from "./HardwareParts";
import css from "./trail.module.css";

export type Hardware = Schemas["HardwareView"];
type Printer = Hardware["printers"][number];
type Change = Printer["changes"][number];

/** Printers with what is on them and what changed about them; nozzles and bed surfaces, with what they have seen. */
export function HardwarePage() {
  const hardware = useQuery(hardwareOptions());
  const printers = useQuery(printersOptions());
  const [editing, setEditing] = useState<string | null>(() => (hasPrinterDraft() ? "new" : null));
  const queries = useQueryClient();
  const done = () => {
    setEditing(null);
    refresh(queries, "/api/hardware", "/api/printers", "/api/hardware/{object_id}/record");
  };
  if (hardware.isError) return <ErrorNote error={hardware.error} again={() => void hardware.refetch()} />;
  if (hardware.isPending || printers.isPending) return <Waiting what="Reading the hardware …" />;
  const h = hardware.data;
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
              <Button size="compact-sm" variant="subtle" onClick={() => setEditing(editing === p.id ? null : p.id)}>
                change its facts
              </Button>
            </p>
            {editing === p.id && <PrinterForm printer={kept} onDone={done} />}
            <ChangeForm printer={p} change={null} hardware={h} onDone={done} />
            <Changes printer={p} hardware={h} onDone={done} />
            <History id={p.id} of={p.name} />
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

/** What changed about a printer, the latest first; each is corrected or taken back in its place. */
function Changes({ printer, hardware, onDone }: { printer: Printer; hardware: Hardware; onDone: () => void }) {
  const [editing, setEditing] = useState<string | null>(null);
  const [gone, setGone] = useState<Change | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const retract = async (change: Change, back: boolean) => {
    try {
      unwrap<Hardware>(await client.PUT("/api/printer-changes/{change_id}/retraction", { params: { path: { change_id: change.id }, query: { back } } }));
      setProblem(null);
      setGone(back ? null : change);
      onDone();
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <>
      <ul className={css.changes} aria-label={`Changes of ${printer.name}`}>
        {printer.changes.map((c) =>
          editing === c.id ? (
            <li key={c.id}>
              <ChangeForm
                printer={printer}
                change={c}
                hardware={hardware}
                onDone={() => {
                  setEditing(null);
                  onDone();
                }}
                onLeave={() => setEditing(null)}
              />
            </li>
          ) : (
            <li key={c.id}>
              <span className="soft">{onDay(c.at)}</span> {c.kind}: {c.text} <span className="soft">by {c.who}</span>
              <Button size="compact-sm" variant="subtle" aria-label={`correct: ${c.text}`} onClick={() => setEditing(c.id)}>
                correct
              </Button>
              <Button size="compact-sm" variant="subtle" aria-label={`take back: ${c.text}`} onClick={() => void retract(c, false)}>
                take back
              </Button>
            </li>
          ),
        )}
      </ul>
      {gone && (
        <p role="status">
          Taken back: {gone.text}.{" "}
          <Button size="compact-sm" variant="default" onClick={() => void retract(gone, true)}>
            Undo
          </Button>
        </p>
      )}
      <Refusal text={problem} />
    </>
  );
}

/** Who changed what of it, opened where it is asked for. */
export function History({ id, of }: { id: string; of: string }) {
  const [open, setOpen] = useState(false);
  const history = useQuery({ ...hardwareRecordOptions(id), enabled: open });
  return (
    <div>
      <Button size="compact-sm" variant="subtle" aria-expanded={open} aria-label={`history of ${of}`} onClick={() => setOpen(!open)}>
        history
      </Button>
      {open && history.data && (history.data.items.length ? <Record entries={history.data.items} plain={["added"]} className={css.changes} /> : <p className="soft">Nothing was changed yet.</p>)}
      {open && history.isError && <ErrorNote error={history.error} again={() => void history.refetch()} />}
    </div>
  );
}
