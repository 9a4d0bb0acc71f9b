import { Button, Select, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";

import type { Schemas } from "../../api/client";
import { dossierOptions, materialsOptions } from "../../api/queries/stock";
import { Picker } from "../../ui/Picker";
import { readNumber } from "../../ui/number";
import css from "./printing.module.css";

/** What another spool gave to a plate, as typed. */
export interface Beside {
  material: string | null;
  spool: string | null;
  part: string;
  purge: string;
}

/** As it is sent; null while something of it is missing or no number. */
export function besidesTold(rows: readonly Beside[]): Schemas["MoreFilament"][] | null {
  const told = rows.map((r) => ({ spool_id: r.spool, part: readNumber(r.part), purge: readNumber(r.purge) }));
  if (told.some((r) => r.spool_id === null || r.part === undefined || r.purge === undefined || (r.part ?? 0) + (r.purge ?? 0) <= 0)) return null;
  return told.map((r) => ({ spool_id: r.spool_id ?? "", part: r.part ?? 0, purge: r.purge ?? 0 }));
}

/** Other spools that gave to the same plate: for supports, for purging. */
export function Besides({ rows, onChange }: { rows: readonly Beside[]; onChange: (rows: Beside[]) => void }) {
  return (
    <>
      {rows.map((row, i) => (
        <Row key={i} row={row} onChange={(next) => onChange(rows.map((r, j) => (j === i ? next : r)))} onDrop={() => onChange(rows.filter((_, j) => j !== i))} />
      ))}
      <Button variant="subtle" size="compact-sm" display="block" mb={8} onClick={() => onChange([...rows, { material: null, spool: null, part: "", purge: "" }])}>
        another spool gave to it too
      </Button>
    </>
  );
}

function Row({ row, onChange, onDrop }: { row: Beside; onChange: (row: Beside) => void; onDrop: () => void }) {
  const materials = useQuery(materialsOptions());
  const dossier = useQuery({ ...dossierOptions(row.material ?? ""), enabled: row.material !== null });
  const spools = (dossier.data?.spools ?? []).filter((s) => !s.gone_at);
  return (
    <div className={css.around}>
      <Picker
        label="beside it"
        placeholder="which filament"
        missing="not in stock: add it first"
        value={row.material}
        onChange={(material) => onChange({ ...row, material, spool: null })}
        data={(materials.data?.items ?? []).map((m) => ({ value: m.id, label: `${m.maker} ${m.product}, ${m.colour}` }))}
        w={210}
      />
      <Select label="its spool" value={row.spool} onChange={(spool) => onChange({ ...row, spool })} data={spools.map((s) => ({ value: s.id, label: s.code }))} w={110} />
      <TextInput label="in parts, g" inputMode="decimal" value={row.part} error={readNumber(row.part) === undefined} onChange={(e) => onChange({ ...row, part: e.currentTarget.value })} w={100} />
      <TextInput label="purged, g" inputMode="decimal" value={row.purge} error={readNumber(row.purge) === undefined} onChange={(e) => onChange({ ...row, purge: e.currentTarget.value })} w={90} />
      <Button variant="subtle" size="compact-sm" mt={26} onClick={onDrop}>
        leave out
      </Button>
    </div>
  );
}
