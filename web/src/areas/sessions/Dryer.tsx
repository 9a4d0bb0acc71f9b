import { Button, NumberInput, Select, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { refreshStock } from "../../api/queries/stock";
import { atMinute, localMinute, timeLeft } from "../../ui/format";
import { Questions } from "../../ui/Questions";
import { Swatch } from "../../ui/Swatch";
import { useAsking } from "../../ui/useAsking";
import { useNow } from "../../ui/useNow";
import css from "./drying.module.css";

type Drying = Schemas["DryingView"];
type Storage = "dry box" | "sealed bag" | "open";

/** A running dryer with what is in it; taking out asks for the masses and where the spools go. */
export function Dryer({ d }: { d: Drying }) {
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const [masses, setMasses] = useState<Record<string, string>>({});
  const [to, setTo] = useState<Storage>("dry box");
  const [place, setPlace] = useState("");
  const [humidity, setHumidity] = useState<number | string>("");
  const [endedAt, setEndedAt] = useState("");
  const asking = useAsking();
  const now = useNow();
  const start = new Date(d.started_at).getTime();
  const due = new Date(d.due_at).getTime();
  const share = Math.min(1, Math.max(0, (now - start) / (due - start)));
  const end = (confirmed = asking.confirmed) =>
    asking.attempt(async () => {
      const body = {
        ended_at: (endedAt ? new Date(endedAt) : new Date()).toISOString(),
        members: d.members.map((m) => ({ spool_id: m.spool_id, raw: masses[m.spool_id] ?? "" })),
        storage: to,
        place,
        humidity: humidity === "" ? null : Number(humidity),
        confirmed,
      };
      unwrap<Drying>(await client.PUT("/api/dryings/{drying_id}/end", { params: { path: { drying_id: d.id }, header: { "if-match": `"${d.revision}"` } }, body }));
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
        <span className="figure">{d.temperature} °C</span>
        <svg width="140" height="10" role="img" aria-label={`${Math.round(share * 100)} % of the time has passed`}>
          <rect width="140" height="10" rx="5" fill="var(--surface)" stroke="var(--line)" />
          <rect width={140 * share} height="10" rx="5" fill="var(--accent)" />
        </svg>
        <strong style={now > due ? { color: "var(--worse)" } : undefined}>{timeLeft(due - now)}</strong>
        <span className="soft">until {atMinute(d.due_at)}</span>
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
          <div key={m.spool_id} className={css.inside}>
            <Swatch hex={m.material.hex} mark={m.material.mark} filled={m.material.filler !== null} size={30} />
            <span>
              <Link to="/stock/spools/$spoolId" params={{ spoolId: m.spool_id }} className="figure">
                {m.code}
              </Link>{" "}
              {m.material.maker} {m.material.product}, {m.material.colour}
              <span className={css.words}>{m.before === null ? "not weighed before" : `${m.before} g before`}</span>
            </span>
            {open && (
              <TextInput
                aria-label={`Mass after of ${m.code}, g`}
                placeholder="after, g"
                inputMode="decimal"
                value={masses[m.spool_id] ?? ""}
                onChange={(e) => setMasses({ ...masses, [m.spool_id]: e.currentTarget.value })}
                w={100}
              />
            )}
          </div>
        ))}
      </div>
      {open && (
        <form
          className={css.row}
          onSubmit={(e) => {
            e.preventDefault();
            void end();
          }}
        >
          <Select aria-label="They go into" data={["dry box", "sealed bag", "open"]} value={to} onChange={(v) => setTo((v ?? "dry box"))} w={130} />
          <TextInput aria-label="Place" placeholder="which box or shelf" value={place} onChange={(e) => setPlace(e.currentTarget.value)} w={170} />
          <NumberInput aria-label="Humidity there, %" placeholder="% RH there" value={humidity} onChange={setHumidity} min={0} max={100} w={120} />
          <TextInput aria-label="Taken out at" title="now, unless a time is given" type="datetime-local" value={endedAt} onChange={(e) => setEndedAt(e.currentTarget.value)} w={200} />
          <Button type="submit">Taken out</Button>
        </form>
      )}
      {asking.problem && (
        <p role="alert" style={{ color: "var(--worse)" }}>
          {asking.problem.text}
        </p>
      )}
      <Questions
        questions={asking.questions}
        onLikely={(q, likely) => {
          if (q.field === "ended_at") setEndedAt(localMinute(likely));
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
