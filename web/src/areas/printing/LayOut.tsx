import { Button, Select, Switch } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { count } from "../../ui/format";
import { NumberEntry } from "../../ui/NumberEntry";
import { Refusal } from "../../ui/Notes";
import css from "./printing.module.css";
import { AFTER_PRINTING } from "./surroundings";

/** Laying out what lies on no plate yet. */
export function LayOut({ study, unplaced, printers }: { study: Schemas["StudyView"]; unplaced: number; printers: readonly Schemas["PrinterView"][] }) {
  const queries = useQueryClient();
  const sized = printers.filter((p) => p.build_x !== null && p.build_y !== null && p.build_z !== null);
  const [printer, setPrinter] = useState<string | null>(null);
  const [one_by_one, setOneByOne] = useState(false);
  const [batches, setBatches] = useState<number | null | undefined>(study.batches);
  const [brim, setBrim] = useState<number | null | undefined>(5);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const chosen = printer ?? sized[0]?.id ?? null;
  const lay = async () => {
    if (!chosen) return;
    setBusy(true);
    try {
      unwrap(await client.POST("/api/studies/{study_id}/plates", { params: { path: { study_id: study.id } }, body: { printer_id: chosen, one_by_one, batches: batches ?? study.batches, brim: brim ?? 0, spares: true } }));
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
    refresh(queries, ...AFTER_PRINTING);
    setBusy(false);
  };
  return (
    <form
      className={css.layout}
      aria-label="Lay out on plates"
      onSubmit={(e) => {
        e.preventDefault();
        void lay();
      }}
    >
      <h2>
        {unplaced} {unplaced === 1 ? "specimen lies" : "specimens lie"} on no plate
      </h2>
      {sized.length ? (
        <div className={css.around}>
          <Select label="plates for the printer" value={chosen} onChange={setPrinter} data={sized.map((p) => ({ value: p.id, label: `${p.name}, ${String(p.build_x)} × ${String(p.build_y)} mm` }))} allowDeselect={false} w={270} />
          <NumberEntry label="each arm in" unit={batches === 1 ? "batch" : "batches"} value={batches} min={1} max={6} whole required onChange={setBatches} w={150} title="what differs from print to print is seen only where there are two" />
          <NumberEntry label="brim, mm" value={brim} min={0} max={30} onChange={setBrim} w={120} title="around pieces that want one to stand" />
          <Switch label="one after another" checked={one_by_one} onChange={(e) => setOneByOne(e.currentTarget.checked)} title="each piece is finished before the next is begun: every layer takes the same time" mt={28} />
          <Button type="submit" loading={busy} mt={22}>
            Lay them out
          </Button>
        </div>
      ) : (
        <p>
          No printer says how large a part it builds: say it under <Link to="/dial-in/hardware">hardware</Link>, then plates can be laid out. Specimens can be printed one by one without.
        </p>
      )}
      {busy && <p role="status">Laying out {count(unplaced, "specimen")} …</p>}
      <Refusal text={problem} />
    </form>
  );
}
