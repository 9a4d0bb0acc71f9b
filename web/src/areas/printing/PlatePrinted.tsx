import { Button, Select, TextInput } from "@mantine/core";
import { useSessionStorage } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, type Schemas, unwrap } from "../../api/client";
import { newId, sentAt } from "../../api/ids";
import { dossierOptions } from "../../api/queries/stock";
import { amount } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import { readNumber } from "../../ui/number";
import { Questions } from "../../ui/Questions";
import { useAsking } from "../../ui/useAsking";
import { type Beside, Besides, besidesTold } from "./Besides";
import css from "./printing.module.css";
import { minutesOf } from "./plates";
import { AFTER_PRINTING, roomOf, type Surroundings } from "./surroundings";

interface PlatePrintedProps {
  arm: Schemas["ArmView"];
  plate: Schemas["PlateView"];
  job: Surroundings;
  onPrinted: (batch: Schemas["BatchView"]) => void;
}

/** Saying that a plate is printed: from which spool, how long it took, what it took. */
export function PlatePrinted({ arm, plate, job, onPrinted }: PlatePrintedProps) {
  const queries = useQueryClient();
  const dossier = useQuery(dossierOptions(arm.material.id));
  const spools = (dossier.data?.spools ?? []).filter((s) => !s.gone_at && s.decision !== "reject");
  const [chosen, choose] = useState<string | null | undefined>(undefined);
  // what is typed of one plate waits while another is looked at
  const [typed, setTyped, forget] = useSessionStorage({ key: `assayer.plate.${plate.id}`, defaultValue: { off: "", took: "", mass: "", purge: "", besides: [] as Beside[] }, getInitialValueInEffect: false });
  const { off, took, mass, purge, besides } = typed;
  const given = besidesTold(besides);
  const [id] = useState(() => newId());
  const [busy, setBusy] = useState(false);
  const asking = useAsking();
  const spool = chosen === undefined ? (plate.spool?.id ?? null) : chosen;
  const [minutes, g, gone] = [minutesOf(took), readNumber(mass), readNumber(purge)];
  const room = roomOf(job.room);
  const wrong = minutes === undefined || g === undefined || gone === undefined || room === undefined || given === null;
  const print = async (confirmed: string[] = asking.confirmed) => {
    if (wrong || busy) return;
    setBusy(true);
    await asking.attempt(async () => {
      const batch = unwrap<Schemas["BatchView"]>(
        await client.POST("/api/batches", {
          body: {
            id, arm_id: arm.id, plate_id: plate.id, test_ids: [], slot_ids: [], besides: given, spool_id: spool, printer_id: plate.printer_id, nozzle: job.nozzle.trim(),
            room, minutes, mass: g, purge: gone ?? 0, printed_at: off ? new Date(off).toISOString() : sentAt(id), confirmed,
          }, // prettier-ignore
        }),
      );
      forget();
      onPrinted(batch);
      refresh(queries, ...AFTER_PRINTING);
    });
    setBusy(false);
  };
  return (
    <form
      className={css.printed}
      aria-label="Printed"
      onSubmit={(e) => {
        e.preventDefault();
        void print();
      }}
    >
      <div className={css.around}>
        <Select
          label="from spool"
          w={178}
          value={spool ?? "none"}
          onChange={(v) => choose(v === "none" ? null : v)}
          data={[...spools.map((s) => ({ value: s.id, label: `${s.code}, ${s.left === null ? "?" : amount(s.left, "g", 0)} left` })), { value: "none", label: "none named" }]}
          allowDeselect={false}
        />
        <TextInput label="came off" type="datetime-local" title="left empty: now" value={off} onChange={(e) => setTyped({ ...typed, off: e.currentTarget.value })} w={186} />
        <TextInput label="took" placeholder="h:mm or min" value={took} error={minutes === undefined} onChange={(e) => setTyped({ ...typed, took: e.currentTarget.value })} w={104} />
        <TextInput label="in parts, g" placeholder={plate.mass === null ? "" : plate.mass.toFixed(0)} inputMode="decimal" value={mass} error={g === undefined} onChange={(e) => setTyped({ ...typed, mass: e.currentTarget.value })} w={90} />
        <TextInput label="purged, g" placeholder="0" inputMode="decimal" value={purge} error={gone === undefined} onChange={(e) => setTyped({ ...typed, purge: e.currentTarget.value })} w={86} />
      </div>
      <Besides rows={besides} onChange={(rows) => setTyped({ ...typed, besides: rows })} />
      <Questions
        questions={asking.questions}
        onLikely={(q) => asking.drop(q)}
        onConfirm={(q) => {
          const { keys, last } = asking.confirm(q);
          if (last) void print(keys);
        }}
      />
      <Refusal text={asking.problem?.text} />
      <Button type="submit" loading={busy} disabled={wrong} size="md">
        This plate is printed
      </Button>
    </form>
  );
}
