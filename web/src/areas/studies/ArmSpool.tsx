import { Select } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";

import { fitOptions } from "../../api/queries/printing";
import { dossierOptions } from "../../api/queries/stock";
import { amount } from "../../ui/format";

interface ArmSpoolProps {
  materialId: string;
  name: string;
  /** The specimens that are printed from it, by shape. */
  pieces: readonly { shape: string; count: number }[];
  /** undefined: not chosen yet; null: none is named. */
  spoolId: string | null | undefined;
  onChange: (spoolId: string | null) => void;
}

/** Which spool an arm is printed from, whether it lasts, and what speaks against printing from it now. */
export function ArmSpool({ materialId, name, pieces, spoolId, onChange }: ArmSpoolProps) {
  const dossier = useQuery(dossierOptions(materialId));
  const spools = (dossier.data?.spools ?? []).filter((s) => !s.gone_at && s.decision !== "reject");
  const masses = pieces.map((p) => {
    const each = dossier.data?.shapes.find((s) => s.name === p.shape)?.mass ?? null;
    return each === null ? null : each * p.count;
  });
  const mass = masses.length && masses.every((m) => m !== null) ? masses.reduce((sum: number, m) => sum + (m ?? 0), 0) : null;
  const first = spools[0]?.id;
  useEffect(() => {
    if (spoolId === undefined && first) onChange(first);
  }, [spoolId, first, onChange]);
  const chosen = spools.find((s) => s.id === spoolId);
  const settings = { mass, adhesive: dossier.data?.window.adhesive ?? "" };
  const fit = useQuery({ ...fitOptions({ spool_id: chosen?.id ?? "", settings }, String(chosen?.revision ?? 0)), enabled: Boolean(chosen) });
  if (!dossier.data) return null;
  if (!spools.length) return <span className="soft">no spool at hand</span>;
  const against = chosen ? (fit.data?.misses.filter((m) => m.level === "must") ?? []) : [];
  return (
    <div style={{ fontSize: "0.8rem", color: against.length ? "var(--caution)" : "var(--soft)" }}>
      <Select
        aria-label={`Spool of ${name}`}
        size="xs"
        w={150}
        data={[...spools.map((s) => ({ value: s.id, label: `${s.code}, ${s.left === null ? "?" : amount(s.left, "g", 0)}` })), { value: "none", label: "none named" }]}
        value={spoolId ?? "none"}
        onChange={(v) => onChange(v === "none" || v === null ? null : v)}
      />
      {chosen && mass !== null && `takes ${amount(mass, "g", 0)}`}
      {against.map((m) => (
        <div key={m.text}>{m.text}</div>
      ))}
    </div>
  );
}
