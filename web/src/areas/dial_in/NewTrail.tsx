import { Button, NativeSelect, Select, TextInput } from "@mantine/core";
import { useLocalStorage } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { takeTrail, trailOptions, trailsOptions } from "../../api/queries/dialIn";
import { printersOptions } from "../../api/queries/printing";
import { materialsOptions } from "../../api/queries/stock";
import { LinkButton } from "../../ui/LinkButton";
import { Refusal } from "../../ui/Notes";
import { Picker } from "../../ui/Picker";
import css from "./trail.module.css";

const fresh = () => ({ id: newId(), trial_id: newId(), material: "", printer: "", purpose: "", part: "", start: "maker" as "maker" | "general" | "sheet", sheet: "" });

/** A new trail: which material, on which printer, for what, and where its first sheet comes from. */
export function NewTrail({ onCancel }: { onCancel: () => void }) {
  const materials = useQuery(materialsOptions());
  const printers = useQuery(printersOptions());
  const [blank] = useState(fresh);
  // kept until the server has taken it: a reload, or a server that is gone, loses nothing
  const [draft, setDraft, forget] = useLocalStorage({ key: "assayer.trail", defaultValue: blank, getInitialValueInEffect: false });
  const [problem, setProblem] = useState<string | null>(null);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const printer = draft.printer || (printers.data?.items.length === 1 ? (printers.data.items[0]?.id ?? "") : "");
  const complete = draft.material && printer && draft.purpose.trim() && draft.part.trim() && (draft.start !== "sheet" || draft.sheet);
  const set = (change: Partial<typeof draft>) => setDraft({ ...draft, ...change });
  const begin = async () => {
    try {
      const body = { id: draft.id, trial_id: draft.trial_id, material_id: draft.material, printer_id: printer, purpose: draft.purpose, part: draft.part, start: draft.start, sheet_id: draft.start === "sheet" ? draft.sheet : null };
      const made = unwrap<Schemas["TrailView"]>(await client.POST("/api/trails", { body }));
      takeTrail(queries, made);
      forget();
      void navigate({ to: "/dial-in/$trailId", params: { trailId: made.id }, search: { trial: 1 } });
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  if (printers.data && !printers.data.items.length) {
    return (
      <p>
        A trail is of a printer, and there is none yet. <LinkButton to="/dial-in/hardware" size="xs">Add a printer</LinkButton>
      </p>
    );
  }
  return (
    <form
      className={css.form}
      aria-label="A new trail"
      onSubmit={(e) => {
        e.preventDefault();
        if (complete) void begin();
      }}
    >
      <Picker
        label="Material"
        missing="not in stock: add it first"
        autoFocus
        data={(materials.data?.items ?? []).map((m) => ({ value: m.id, label: `${m.maker} ${m.product}, ${m.colour}` }))}
        value={draft.material || null}
        onChange={(v) => set({ material: v ?? "" })}
      />
      <Select label="Printer" data={(printers.data?.items ?? []).map((p) => ({ value: p.id, label: p.name }))} value={printer || null} onChange={(v) => set({ printer: v ?? "" })} />
      <TextInput label="For what" placeholder="clips, frames, …" value={draft.purpose} maxLength={80} onChange={(e) => set({ purpose: e.currentTarget.value })} />
      <TextInput label="What is printed" placeholder="clip" value={draft.part} maxLength={80} onChange={(e) => set({ part: e.currentTarget.value })} />
      <NativeSelect
        label="Start from"
        value={draft.start}
        onChange={(e) => set({ start: e.currentTarget.value as typeof draft.start })}
        data={[
          { value: "maker", label: "middle of the maker's window" },
          { value: "general", label: "general values" },
          { value: "sheet", label: "another trail's last sheet" },
        ]}
      />
      {draft.start === "sheet" && <OtherSheet value={draft.sheet} onChange={(sheet) => set({ sheet })} />}
      <Refusal text={problem} />
      <div className={css.acts}>
        <Button type="submit" disabled={!complete}>
          Begin
        </Button>
        <Button variant="subtle" onClick={onCancel}>
          Cancel
        </Button>
      </div>
    </form>
  );
}

function OtherSheet({ value, onChange }: { value: string; onChange: (sheet: string) => void }) {
  const trails = useQuery(trailsOptions());
  const [trail, setTrail] = useState<string | null>(null);
  const found = useQuery({ ...trailOptions(trail ?? ""), enabled: trail !== null });
  return (
    <>
      <Select label="Of which trail" data={(trails.data?.items ?? []).map((t) => ({ value: t.id, label: `${t.material.product}, ${t.purpose}` }))} value={trail} onChange={(v) => { setTrail(v); onChange(""); }} />
      {found.data && <Select label="From its trial" data={found.data.trials.map((t) => ({ value: t.sheet_id, label: `trial ${String(t.number)}` })).filter((o, i, all) => all.findIndex((x) => x.value === o.value) === i)} value={value || null} onChange={(v) => onChange(v ?? "")} />}
    </>
  );
}
