import { Button, Checkbox, TextInput } from "@mantine/core";
import { useLocalStorage } from "@mantine/hooks";
import { type ReactNode, useState } from "react";

import { client, messageOf, unwrap } from "../../api/client";
import { useIds } from "../../api/useIds";
import { onDay, short } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import { readNumber } from "../../ui/number";
import { Questions } from "../../ui/Questions";
import { useAsking } from "../../ui/useAsking";
import { Wide } from "../../ui/Wide";
import { type Hardware, History } from "./HardwarePage";
import css from "./trail.module.css";

interface PartsProps {
  hardware: Hardware;
  onDone: () => void;
}

type Nozzle = Hardware["nozzles"][number];
type Surface = Hardware["bed_surfaces"][number];

/** All nozzles, where they are and what they have seen; each is corrected or withdrawn in its row. */
export function Nozzles({ hardware, onDone }: PartsProps) {
  const [editing, setEditing] = useState<string | null>(null);
  const withdrawal = useWithdrawal(async (id, back) => unwrap<Hardware>(await client.PUT("/api/nozzles/{nozzle_id}/withdrawal", { params: { path: { nozzle_id: id }, query: { back } } })), onDone);
  const left = () => setEditing(null);
  return (
    <section aria-label="Nozzles" style={{ marginTop: "1.6rem" }}>
      <h2>Nozzles</h2>
      {hardware.nozzles.length > 0 && (
        <Wide label="All nozzles">
          <table className="plain" style={{ maxWidth: 980 }}>
            <thead>
              <tr>
                <th>nozzle</th>
                <th className="num">bore, mm</th>
                <th>of</th>
                <th>where</th>
                <th className="num">abrasive filament, g</th>
                <th style={{ position: "relative" }}>
                  <span className="visually-hidden">correct or withdraw</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {hardware.nozzles.map((n) => (
                <tr key={n.id}>
                  {editing === n.id ? (
                    <td colSpan={6}>
                      <NozzleForm nozzle={n} onDone={() => { left(); onDone(); }} onLeave={left} />
                    </td>
                  ) : (
                    <>
                      <td>{n.name}</td>
                      <td className="num">{short(n.diameter)}</td>
                      <td>{[n.material, n.hardened ? "hardened" : ""].filter(Boolean).join(", ")}</td>
                      <td>{n.retired_at ? `retired ${onDay(n.retired_at)}` : (hardware.printers.find((p) => p.id === n.printer_id)?.name ?? "in the drawer")}</td>
                      <td className="num">{Math.round(n.abrasive)}</td>
                      <td>
                        <Acts name={n.name} onEdit={() => setEditing(n.id)} onWithdraw={() => void withdrawal.act(n, false)} history={<History id={n.id} of={n.name} />} />
                      </td>
                    </>
                  )}
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      )}
      {withdrawal.notice}
      <NozzleForm nozzle={null} onDone={onDone} />
    </section>
  );
}

/** What may be done with a part in its row. */
function Acts({ name, onEdit, onWithdraw, history }: { name: string; onEdit: () => void; onWithdraw: () => void; history: ReactNode }) {
  return (
    <span className={css.partActs}>
      <Button size="compact-sm" variant="subtle" aria-label={`correct ${name}`} onClick={onEdit}>
        correct
      </Button>
      <Button size="compact-sm" variant="subtle" aria-label={`withdraw ${name}`} onClick={onWithdraw}>
        withdraw
      </Button>
      {history}
    </span>
  );
}

/** Taking a part that was entered by mistake out of the list, with the way back. */
function useWithdrawal(send: (id: string, back: boolean) => Promise<unknown>, onDone: () => void) {
  const [gone, setGone] = useState<{ id: string; name: string } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const act = async (part: { id: string; name: string }, back: boolean) => {
    try {
      await send(part.id, back);
      setProblem(null);
      setGone(back ? null : part);
      onDone();
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const notice = (
    <>
      {gone && (
        <p role="status">
          {gone.name} was withdrawn.{" "}
          <Button size="compact-sm" variant="default" onClick={() => void act(gone, true)}>
            Undo
          </Button>
        </p>
      )}
      <Refusal text={problem} />
    </>
  );
  return { act, notice };
}

function NozzleForm({ nozzle, onDone, onLeave }: { nozzle: Nozzle | null; onDone: () => void; onLeave?: () => void }) {
  const empty = { name: "", diameter: "", material: "", hardened: false };
  const [start] = useState(nozzle ? { name: nozzle.name, diameter: short(nozzle.diameter), material: nozzle.material, hardened: nozzle.hardened } : empty);
  // kept until the server has taken it: a reload loses nothing
  const [draft, setDraft, forget] = useLocalStorage({ key: `assayer.nozzle.${nozzle ? `${nozzle.id}.${String(nozzle.revision)}` : "new"}`, defaultValue: start, getInitialValueInEffect: false });
  const asking = useAsking();
  const ids = useIds();
  const diameter = readNumber(draft.diameter);
  const set = (more: Partial<typeof draft>) => {
    asking.reset();
    setDraft({ ...draft, ...more });
  };
  const keep = async (confirmed: string[] = []) => {
    const body = { ...draft, diameter: diameter ?? 0, confirmed };
    const saved = await asking.attempt(async () =>
      nozzle
        ? unwrap<Hardware>(await client.PATCH("/api/nozzles/{nozzle_id}", { params: { path: { nozzle_id: nozzle.id }, header: { "if-match": `"${String(nozzle.revision)}"` } }, body }))
        : await ids.sent(JSON.stringify(body), async (id) => unwrap<Hardware>(await client.POST("/api/nozzles", { body: { id, ...body } }))),
    );
    if (!saved) return;
    forget();
    onDone();
  };
  return (
    <form
      className={css.acts}
      style={{ marginTop: 8 }}
      aria-label={nozzle ? `Correct ${nozzle.name}` : "A nozzle"}
      onSubmit={(e) => {
        e.preventDefault();
        if (draft.name.trim() && diameter) void keep();
      }}
    >
      <TextInput size="xs" label="name" value={draft.name} autoFocus={nozzle !== null} onChange={(e) => set({ name: e.currentTarget.value })} />
      <TextInput size="xs" label="bore, mm" w={90} inputMode="decimal" value={draft.diameter} error={diameter === undefined} onChange={(e) => set({ diameter: e.currentTarget.value })} />
      <TextInput size="xs" label="made of" value={draft.material} onChange={(e) => set({ material: e.currentTarget.value })} />
      <Checkbox size="xs" label="hardened" checked={draft.hardened} onChange={(e) => set({ hardened: e.currentTarget.checked })} />
      <Button type="submit" size="xs" variant="default" disabled={!draft.name.trim() || !diameter}>
        {nozzle ? "Save" : "Add a nozzle"}
      </Button>
      {onLeave && (
        <Button size="xs" variant="subtle" onClick={onLeave}>
          Leave it
        </Button>
      )}
      <Questions questions={asking.questions} onLikely={(_, likely) => set({ diameter: likely })} onConfirm={(q) => void keep(asking.confirm(q).keys)} />
      <Refusal text={asking.problem?.text} />
    </form>
  );
}

/** All bed surfaces and where they lie. */
export function Surfaces({ hardware, onDone }: PartsProps) {
  const [editing, setEditing] = useState<string | null>(null);
  const withdrawal = useWithdrawal(async (id, back) => unwrap<Hardware>(await client.PUT("/api/bed-surfaces/{surface_id}/withdrawal", { params: { path: { surface_id: id }, query: { back } } })), onDone);
  const left = () => setEditing(null);
  return (
    <section aria-label="Bed surfaces" style={{ marginTop: "1.6rem" }}>
      <h2>Bed surfaces</h2>
      <ul className={css.changes}>
        {hardware.bed_surfaces.map((b) =>
          editing === b.id ? (
            <li key={b.id}>
              <SurfaceForm surface={b} onDone={() => { left(); onDone(); }} onLeave={left} />
            </li>
          ) : (
            <li key={b.id}>
              {b.name} <span className="soft">{b.retired_at ? `ruined ${onDay(b.retired_at)}` : (hardware.printers.find((p) => p.id === b.printer_id)?.name ?? "put aside")}</span>
              <Acts name={b.name} onEdit={() => setEditing(b.id)} onWithdraw={() => void withdrawal.act(b, false)} history={<History id={b.id} of={b.name} />} />
            </li>
          ),
        )}
      </ul>
      {withdrawal.notice}
      <SurfaceForm surface={null} onDone={onDone} />
    </section>
  );
}

function SurfaceForm({ surface, onDone, onLeave }: { surface: Surface | null; onDone: () => void; onLeave?: () => void }) {
  const [name, setName] = useState(surface?.name ?? "");
  const asking = useAsking();
  const ids = useIds();
  const keep = async () => {
    const saved = await asking.attempt(async () =>
      surface
        ? unwrap<Hardware>(await client.PATCH("/api/bed-surfaces/{surface_id}", { params: { path: { surface_id: surface.id }, header: { "if-match": `"${String(surface.revision)}"` } }, body: { name } }))
        : await ids.sent(name, async (id) => unwrap<Hardware>(await client.POST("/api/bed-surfaces", { body: { id, name, note: "" } }))),
    );
    if (!saved) return;
    setName("");
    onDone();
  };
  return (
    <form
      className={css.acts}
      aria-label={surface ? `Correct ${surface.name}` : "A bed surface"}
      onSubmit={(e) => {
        e.preventDefault();
        if (name.trim()) void keep();
      }}
    >
      <TextInput size="xs" label="name" value={name} autoFocus={surface !== null} onChange={(e) => setName(e.currentTarget.value)} />
      <Button type="submit" size="xs" variant="default" disabled={!name.trim()}>
        {surface ? "Save" : "Add a surface"}
      </Button>
      {onLeave && (
        <Button size="xs" variant="subtle" onClick={onLeave}>
          Leave it
        </Button>
      )}
      <Refusal text={asking.problem?.text} />
    </form>
  );
}
