import { Button, NumberInput, Select, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { dossierOptions, refreshStock } from "../../api/queries/stock";
import { Questions } from "../../ui/Questions";
import { useAsking } from "../../ui/useAsking";
import css from "../sessions/drying.module.css";

type Drying = Schemas["DryingView"];
type Place = Schemas["PlaceView"];
type Storage = "dry box" | "sealed bag" | "open";

interface SpoolActionsProps {
  spools: Schemas["PlaceSpool"][];
  places: Place[];
  devices: string[];
  onDone: () => void;
}

/** What to do with the picked spools: dry them together, or put them somewhere. */
export function SpoolActions({ spools, places, devices, onDone }: SpoolActionsProps) {
  const queries = useQueryClient();
  const first = spools[0];
  const dossier = useQuery({ ...dossierOptions(first?.material.id ?? ""), enabled: Boolean(first) });
  const asked = dossier.data?.window;
  const [device, setDevice] = useState(devices[0] ?? "");
  const [heat, setHeat] = useState<number | string>("");
  const [hours, setHours] = useState<number | string>("");
  const [masses, setMasses] = useState<Record<string, string>>({});
  const [to, setTo] = useState("");
  const [newPlace, setNewPlace] = useState("");
  const [storage, setStorage] = useState<Storage>("dry box");
  const [humidity, setHumidity] = useState<number | string>("");
  const [startedAt, setStartedAt] = useState("");
  const asking = useAsking();
  const [id, setId] = useState(() => newId());
  if (!first) {
    return (
      <section className={css.act}>
        <h2>Pick spools</h2>
        <p className="soft">Touch the spools on the shelves, then dry them together, or put them somewhere else.</p>
      </section>
    );
  }
  const finish = () => {
    refreshStock(queries);
    setId(newId());
    asking.reset();
    setMasses({});
    onDone();
  };
  const temperature = heat === "" ? (asked?.dry_temperature ?? null) : Number(heat);
  const time = hours === "" ? (asked?.dry_time ?? null) : Number(hours);
  const dry = (confirmed = asking.confirmed) =>
    asking.attempt(async () => {
      if (temperature === null || time === null) return;
      const members = spools.map((s) => ({ spool_id: s.id, raw: masses[s.id] ?? "" }));
      const started_at = (startedAt ? new Date(startedAt) : new Date()).toISOString();
      unwrap<Drying>(await client.POST("/api/dryings", { body: { id, device, temperature, hours: time, started_at, members, note: "", confirmed } }));
      finish();
    });
  const move = () =>
    asking.attempt(async () => {
      const place = places.find((p) => `${p.storage}|${p.place}` === to);
      const body = {
        moves: spools.map((s) => ({ id: newId(), spool_id: s.id })),
        storage: (place?.storage ?? storage) as Storage,
        place: place ? place.place : newPlace,
        humidity: humidity === "" ? null : Number(humidity),
        at: new Date().toISOString(),
      };
      unwrap<Schemas["PlaceList"]>(await client.POST("/api/storage", { body }));
      finish();
    });
  return (
    <section className={css.act} aria-label="What to do">
      <h2>
        {spools.length === 1 ? `${first.code}: ` : `${spools.length} spools: `}
        <span className="soft">{spools.length === 1 ? `${first.material.maker} ${first.material.product}` : spools.map((s) => s.code).join(", ")}</span>
      </h2>
      <form
        className={css.grid}
        onSubmit={(e) => {
          e.preventDefault();
          void dry();
        }}
      >
        <h3>Dry</h3>
        {asked && (
          <p className="soft" style={{ margin: 0 }}>
            {asked.dry_temperature === null ? "The maker asks for no drying." : `The maker asks for ${asked.dry_temperature} °C, ${asked.dry_time ?? "?"} h.`}
          </p>
        )}
        <div className={css.row}>
          <TextInput label="Device" value={device} onChange={(e) => setDevice(e.currentTarget.value)} list="devices" w={150} />
          <datalist id="devices">
            {devices.map((d) => (
              <option key={d} value={d} />
            ))}
          </datalist>
          <NumberInput label="At, °C" value={heat === "" ? (asked?.dry_temperature ?? "") : heat} onChange={setHeat} min={20} max={200} w={90} />
          <NumberInput label="For, h" value={hours === "" ? (asked?.dry_time ?? "") : hours} onChange={setHours} min={0.5} max={200} step={1} w={90} />
        </div>
        {spools.map((s) => (
          <div key={s.id} className={css.row}>
            <span className="figure" style={{ width: 60 }}>
              {s.code}
            </span>
            <TextInput aria-label={`Mass before of ${s.code}, g`} placeholder="mass before, g" inputMode="decimal" value={masses[s.id] ?? ""} onChange={(e) => setMasses({ ...masses, [s.id]: e.currentTarget.value })} w={150} />
          </div>
        ))}
        <TextInput label="Since" description="now, unless a time is given" type="datetime-local" value={startedAt} onChange={(e) => setStartedAt(e.currentTarget.value)} w={220} />
        <Button type="submit" disabled={!device.trim() || temperature === null || time === null}>
          Into the dryer
        </Button>
      </form>
      <Questions
        questions={asking.questions}
        onLikely={asking.drop}
        onConfirm={(q) => {
          const { keys, last } = asking.confirm(q);
          if (last) void dry(keys);
        }}
      />
      {asking.problem && (
        <p role="alert" style={{ color: "var(--worse)" }}>
          {asking.problem.text}
        </p>
      )}
      <form
        className={css.grid}
        onSubmit={(e) => {
          e.preventDefault();
          void move();
        }}
      >
        <h3>Put somewhere, or note the humidity there</h3>
        <div className={css.row}>
          <Select
            aria-label="Where to"
            placeholder="another place"
            clearable
            data={places.map((p) => ({ value: `${p.storage}|${p.place}`, label: `${p.place || "–"} (${p.storage})` }))}
            value={to || null}
            onChange={(v) => setTo(v ?? "")}
            w={190}
          />
          <NumberInput aria-label="Humidity, %" placeholder="% RH" value={humidity} onChange={setHumidity} min={0} max={100} w={90} />
        </div>
        {!to && (
          <div className={css.row}>
            <Select aria-label="Kind of place" data={["dry box", "sealed bag", "open"]} value={storage} onChange={(v) => setStorage((v ?? "dry box"))} w={130} />
            <TextInput aria-label="Name of the place" placeholder="its name" value={newPlace} onChange={(e) => setNewPlace(e.currentTarget.value)} w={150} />
          </div>
        )}
        <Button type="submit" variant="default">
          Put there
        </Button>
      </form>
    </section>
  );
}

