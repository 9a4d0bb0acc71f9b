import { Autocomplete, Button, Select, TextInput } from "@mantine/core";
import { useForm } from "@mantine/form";
import { useQuery, useQueryClient } from "@tanstack/react-query";

import type { Schemas } from "../../api/client";
import { newId } from "../../api/ids";
import { outbox, type Went } from "../../api/outbox";
import { togetherOptions } from "../../api/queries/sessions";
import { refreshStock } from "../../api/queries/stock";
import { NumberEntry } from "../../ui/NumberEntry";
import { Refusal } from "../../ui/Notes";
import { Questions } from "../../ui/Questions";
import { STORAGES } from "../../ui/storages";
import { useAsking } from "../../ui/useAsking";
import { Restored, useDraftForm } from "../../ui/useDraftForm";
import css from "../sessions/drying.module.css";

interface SpoolActionsProps {
  spools: Schemas["PlaceSpool"][];
  places: Schemas["PlaceView"][];
  devices: string[];
  onDone: (went: Went) => void;
}

/** What to do with the picked spools: dry them together, or put them somewhere. */
export function SpoolActions({ spools, places, devices, onDone }: SpoolActionsProps) {
  const first = spools[0];
  if (!first) {
    return (
      <section className={css.act}>
        <h2>Pick spools</h2>
        <p className="soft">Touch the spools on the shelves, then dry them together, or put them somewhere else.</p>
      </section>
    );
  }
  return (
    <section className={css.act} aria-label="What to do">
      <h2>
        {spools.length === 1 ? `${first.code}: ` : `${spools.length} spools: `}
        <span className="soft">{spools.length === 1 ? `${first.material.maker} ${first.material.product}` : spools.map((s) => s.code).join(", ")}</span>
      </h2>
      <DryForm key={codes(spools)} spools={spools} devices={devices} onDone={onDone} />
      <MoveForm spools={spools} places={places} onDone={onDone} />
    </section>
  );
}

const codes = (spools: Schemas["PlaceSpool"][]) => spools.map((s) => s.code).join(", ");

const PROPOSED = "proposed";

interface Drying {
  device: string;
  /** As somebody typed them; until then what the makers ask for. */
  heat: typeof PROPOSED | number | null | undefined;
  hours: typeof PROPOSED | number | null | undefined;
  masses: Record<string, string>;
  startedAt: string;
}

/** How the spools are dried, begun with what suits all of them. */
function useDrying(spools: Schemas["PlaceSpool"][], devices: string[], onDone: (went: Went) => void) {
  const queries = useQueryClient();
  const asked = useQuery(togetherOptions(spools.map((s) => s.id))).data;
  const draft = useDraftForm<Drying>(`assayer.form.drying.${codes(spools)}`, { initialValues: { device: devices[0] ?? "", heat: PROPOSED, hours: PROPOSED, masses: {}, startedAt: "" } });
  const { form, id } = draft;
  const asking = useAsking();
  const { device, heat, hours } = form.values;
  const temperature = heat === PROPOSED ? (asked?.temperature ?? null) : heat;
  const time = hours === PROPOSED ? (asked?.hours ?? null) : hours;
  const dry = (confirmed = asking.confirmed) =>
    asking.attempt(async () => {
      if (temperature == null || time == null) return;
      const { masses, startedAt } = form.getValues();
      const members = spools.map((s) => ({ spool_id: s.id, raw: masses[s.id] ?? "" }));
      const started_at = (startedAt ? new Date(startedAt) : new Date()).toISOString();
      const body = { id, device, temperature, hours: time, started_at, members, note: "", confirmed };
      const went = await outbox.deliver({ kind: "drying", body, code: codes(spools), added_at: Date.now() });
      refreshStock(queries);
      asking.reset();
      draft.reset();
      onDone(went);
    });
  return { draft, form, asked, asking, temperature, time, dry };
}

function DryForm({ spools, devices, onDone }: { spools: Schemas["PlaceSpool"][]; devices: string[]; onDone: (went: Went) => void }) {
  const { draft, form, asked, asking, temperature, time, dry } = useDrying(spools, devices, onDone);
  return (
    <>
      <form className={css.grid} onSubmit={form.onSubmit(() => void dry())}>
        <h3>Dry</h3>
        <Restored draft={draft} />
        {asked && <Suits asked={asked} several={spools.length > 1} />}
        <div className={css.row}>
          <Autocomplete label="Device" data={devices} {...form.getInputProps("device")} w={150} />
          <NumberEntry label="At, °C" value={temperature} onChange={(v) => form.setFieldValue("heat", v)} min={20} max={200} w={120} />
          <NumberEntry label="For, h" value={time} onChange={(v) => form.setFieldValue("hours", v)} min={0.5} max={200} w={120} />
        </div>
        {spools.map((s) => (
          <div key={s.id} className={css.row}>
            <span className="figure" style={{ width: 60 }}>
              {s.code}
            </span>
            <TextInput aria-label={`Mass before of ${s.code}, g`} placeholder="mass before, g" inputMode="decimal" {...form.getInputProps(`masses.${s.id}`)} w={150} />
          </div>
        ))}
        <TextInput label="Since" description="now, unless a time is given" type="datetime-local" {...form.getInputProps("startedAt")} w={220} />
        <Button type="submit" disabled={!form.values.device.trim() || temperature == null || time == null}>
          Into the dryer
        </Button>
      </form>
      <Questions
        questions={asking.questions}
        onLikely={(q, likely) => {
          const spool = q.field === "members" && q.row != null ? spools[q.row - 1] : undefined;
          if (spool) form.setFieldValue(`masses.${spool.id}`, likely);
          if (q.field === "hours") form.setFieldValue("hours", Number(likely));
          if (q.field === "temperature") form.setFieldValue("heat", Number(likely));
          asking.drop(q);
        }}
        onConfirm={(q) => {
          const { keys, last } = asking.confirm(q);
          if (last) void dry(keys);
        }}
      />
      <Refusal text={asking.problem?.text} />
    </>
  );
}

/** What the makers ask for and what rules; for whom nothing is known. */
function Suits({ asked, several }: { asked: Schemas["TogetherView"]; several: boolean }) {
  const makers = several ? "their makers" : "the maker";
  return (
    <div className="soft">
      <p style={{ margin: 0 }}>
        {asked.temperature === null ? `No temperature is proposed: ${asked.why_none || `nothing is known of drying from ${makers}`}.` : `For ${several ? "all of them" : "it"}: ${String(asked.temperature)} °C${asked.hours === null ? "" : `, ${String(asked.hours)} h`}.`}
        {asked.limit !== null && ` Not above ${String(asked.limit)} °C, for ${asked.rules}.`}
      </p>
      {asked.general.length > 0 && <p style={{ margin: "0.2rem 0 0" }}>General figures of the polymer, as the maker says nothing: {asked.general.join(", ")}.</p>}
      {asked.unknown.length > 0 && <p style={{ margin: "0.2rem 0 0" }}>No limit is known from {asked.unknown.join(", ")}.</p>}
    </div>
  );
}

interface Move {
  /** A place that is known, as "storage|place"; empty for one that is named here. */
  to: string;
  storage: (typeof STORAGES)[number];
  place: string;
  humidity: number | null | undefined;
}

function MoveForm({ spools, places, onDone }: { spools: Schemas["PlaceSpool"][]; places: Schemas["PlaceView"][]; onDone: (went: Went) => void }) {
  const queries = useQueryClient();
  const form = useForm<Move>({ initialValues: { to: "", storage: "dry box", place: "", humidity: null } });
  const asking = useAsking();
  const move = (wanted: Move) =>
    asking.attempt(async () => {
      const known = places.find((p) => `${p.storage}|${p.place}` === wanted.to);
      const body: Schemas["NewStorage"] = {
        moves: spools.map((s) => ({ id: newId(), spool_id: s.id })),
        storage: STORAGES.find((kind) => kind === known?.storage) ?? wanted.storage,
        place: known?.place ?? wanted.place,
        humidity: wanted.humidity ?? null,
        at: new Date().toISOString(),
      };
      const went = await outbox.deliver({ kind: "moves", body, code: codes(spools), added_at: Date.now() });
      refreshStock(queries);
      asking.reset();
      onDone(went);
    });
  return (
    <form className={css.grid} onSubmit={form.onSubmit((wanted) => void move(wanted))}>
      <h3>Put somewhere, or note the humidity there</h3>
      <div className={css.row}>
        <Select
          aria-label="Where to"
          placeholder="another place"
          clearable
          data={places.map((p) => ({ value: `${p.storage}|${p.place}`, label: `${p.place || "–"} (${p.storage})` }))}
          value={form.values.to || null}
          onChange={(v) => form.setFieldValue("to", v ?? "")}
          w={190}
        />
        <NumberEntry aria-label="Humidity, %" placeholder="% RH" value={form.values.humidity} onChange={(v) => form.setFieldValue("humidity", v)} min={0} max={100} w={110} />
      </div>
      {!form.values.to && (
        <div className={css.row}>
          <Select aria-label="Kind of place" data={STORAGES} {...form.getInputProps("storage")} allowDeselect={false} w={130} />
          <TextInput aria-label="Name of the place" placeholder="its name" {...form.getInputProps("place")} w={150} />
        </div>
      )}
      <Refusal text={asking.problem?.text} />
      <Button type="submit" variant="default">
        Put there
      </Button>
    </form>
  );
}
