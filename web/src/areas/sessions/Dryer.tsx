import { Button, Select, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type ReactNode, useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { outbox, type Went } from "../../api/outbox";
import { refreshStock } from "../../api/queries/stock";
import { NumberEntry } from "../../ui/NumberEntry";
import { atMinute, localMinute, setting, timeLeft } from "../../ui/format";
import { KeptHere, Refusal } from "../../ui/Notes";
import { Questions } from "../../ui/Questions";
import { Swatch } from "../../ui/Swatch";
import { useAsking } from "../../ui/useAsking";
import { useNow } from "../../ui/useNow";
import { STORAGES } from "../../ui/storages";
import { Restored, useDraftForm } from "../../ui/useDraftForm";
import { CorrectMass } from "./CorrectMass";
import css from "./drying.module.css";

type Drying = Schemas["DryingView"];

/** A running dryer with what is in it; taking out asks for the masses and where the spools go. */
export function Dryer({ d }: { d: Drying }) {
  const queries = useQueryClient();
  const draft = useDraftForm<TakenOut>(`assayer.form.dryer.${d.id}`, { initialValues: { masses: {}, storage: "dry box", place: "", humidity: null, endedAt: "" } });
  const { form } = draft;
  const [open, setOpen] = useState(draft.restored);
  const asking = useAsking();
  const [went, setWent] = useState<Went>("sent");
  const end = (confirmed = asking.confirmed) =>
    asking.attempt(async () => {
      const body = bodyOf(d, form.getValues(), confirmed);
      const code = d.members.map((m) => m.code).join(", ");
      setWent(await outbox.deliver({ kind: "taken out", drying_id: d.id, revision: d.revision, body, code, added_at: Date.now() }));
      draft.forget();
      setOpen(false);
      refreshStock(queries);
    });
  const undo = () =>
    asking.attempt(async () => {
      unwrap<Drying>(await client.PUT("/api/dryings/{drying_id}/undone", { params: { path: { drying_id: d.id }, query: { what: "all" } } }));
      refreshStock(queries);
    });
  return (
    <section className={css.lane} data-storage="dryer" aria-label={d.device}>
      <div className={css.laneHead}>
        <h2>{d.device}</h2>
        <Progress d={d} />
        <span style={{ marginLeft: "auto", display: "flex", gap: 8 }}>
          <Button size="xs" variant="subtle" onClick={() => void undo()}>
            Undo the start
          </Button>
          <Button size="xs" variant={open ? "default" : "filled"} onClick={() => setOpen(!open)}>
            {open ? "Leave it in" : "Take out"}
          </Button>
        </span>
      </div>
      <div className={css.spools}>
        {d.members.map((m) => (
          <Inside key={m.spool_id} member={m} drying={d}>
            {open && <TextInput aria-label={`Mass after of ${m.code}, g`} placeholder="after, g" inputMode="decimal" {...form.getInputProps(`masses.${m.spool_id}`)} w={100} />}
          </Inside>
        ))}
      </div>
      {open && <Restored draft={draft} />}
      {open && (
        <form className={css.row} onSubmit={form.onSubmit(() => void end())}>
          <Select aria-label="They go into" data={STORAGES} {...form.getInputProps("storage")} allowDeselect={false} w={130} />
          <TextInput aria-label="Place" placeholder="which box or shelf" {...form.getInputProps("place")} w={170} />
          <NumberEntry aria-label="Humidity there, %" placeholder="% RH there" value={form.values.humidity} onChange={(v) => form.setFieldValue("humidity", v)} min={0} max={100} w={130} />
          <TextInput aria-label="Taken out at" title="now, unless a time is given" type="datetime-local" {...form.getInputProps("endedAt")} w={200} />
          <Button type="submit">Taken out</Button>
        </form>
      )}
      <Refusal text={asking.problem?.text} />
      <KeptHere went={went} />
      <Questions
        questions={asking.questions}
        onLikely={(q, likely) => {
          if (q.field === "ended_at") form.setFieldValue("endedAt", localMinute(likely));
          asking.drop(q);
        }}
        onConfirm={(q) => {
          const { keys, last } = asking.confirm(q);
          if (last) void end(keys);
        }}
      />
    </section>
  );
}

interface TakenOut {
  /** As typed, by spool. */
  masses: Record<string, string>;
  storage: (typeof STORAGES)[number];
  place: string;
  humidity: number | null | undefined;
  endedAt: string;
}

function bodyOf(d: Drying, out: TakenOut, confirmed: string[]): Schemas["EndDrying"] {
  return {
    ended_at: (out.endedAt ? new Date(out.endedAt) : new Date()).toISOString(),
    members: d.members.map((m) => ({ spool_id: m.spool_id, raw: out.masses[m.spool_id] ?? "" })),
    storage: out.storage,
    place: out.place,
    humidity: out.humidity ?? null,
    confirmed,
  };
}

/** How warm, and how much of the time has passed. */
function Progress({ d }: { d: Drying }) {
  const now = useNow();
  const start = new Date(d.started_at).getTime();
  const due = new Date(d.due_at).getTime();
  const share = Math.min(1, Math.max(0, (now - start) / (due - start)));
  return (
    <>
      <span className="figure">{setting(d.temperature, "°C")}</span>
      <svg width="140" height="10" role="img" aria-label={`${Math.round(share * 100)} % of the time has passed`}>
        <rect width="140" height="10" rx="5" fill="var(--surface)" stroke="var(--line)" />
        <rect width={140 * share} height="10" rx="5" fill="var(--accent)" />
      </svg>
      <strong style={now > due ? { color: "var(--worse)" } : undefined}>{timeLeft(due - now)}</strong>
      <span className="soft">until {atMinute(d.due_at)}</span>
    </>
  );
}

/** One spool in the dryer. */
function Inside({ member: m, drying, children }: { member: Drying["members"][number]; drying: Drying; children: ReactNode }) {
  return (
    <div className={css.inside}>
      <Swatch hex={m.material.hex} mark={m.material.mark} filled={m.material.filler !== null} size={30} />
      <span>
        <Link to="/stock/spools/$spoolId" params={{ spoolId: m.spool_id }} className="figure">
          {m.code}
        </Link>{" "}
        {m.material.maker} {m.material.product}, {m.material.colour}
        <CorrectMass drying={drying} member={m} moment="before" />
      </span>
      {children}
    </div>
  );
}
