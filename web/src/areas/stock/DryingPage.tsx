import { Button, NumberInput, Select, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useSearch } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, Problem, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { dossierOptions, dryingsOptions, placesOptions, refreshStock } from "../../api/queries";
import { atMinute, onDay } from "../../ui/format";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import { type Asked, Questions, questionsOf } from "../../ui/Questions";
import { Swatch } from "../../ui/Swatch";
import { timeLeft } from "../day/DayPage";
import css from "./drying.module.css";
import { IntakeMark } from "./SpoolGlyph";

type Drying = Schemas["DryingOut"];
type Place = Schemas["PlaceOut"];

/** Dryers and shelves with the spools in them: pick spools, then dry them or put them somewhere. */
export function DryingPage() {
  const { spool } = useSearch({ from: "/stock/drying" });
  const dryings = useQuery(dryingsOptions());
  const places = useQuery(placesOptions());
  const [picked, setPicked] = useState<string[]>(spool ? [spool] : []);
  if (dryings.isPending || places.isPending) return <Waiting what="Looking at dryers and shelves …" />;
  if (dryings.isError) return <ErrorNote error={dryings.error} again={() => void dryings.refetch()} />;
  if (places.isError) return <ErrorNote error={places.error} again={() => void places.refetch()} />;
  const running = dryings.data.items.filter((d) => d.ended_at === null);
  const ended = dryings.data.items.filter((d) => d.ended_at !== null);
  const shelves = places.data.items.filter((p) => p.storage !== "dryer");
  const chosen = shelves.flatMap((p) => p.spools).filter((s) => picked.includes(s.id));
  if (!places.data.items.length) return <Empty title="No spool at hand">Take one in first: <Link to="/stock/intake">the intake sheet</Link> asks where it goes.</Empty>;
  return (
    <div className="page">
      <div style={{ display: "flex", alignItems: "baseline", gap: 14, marginBottom: 10 }}>
        <Link to="/stock" className="soft">
          Stock
        </Link>
        <h1>Drying &amp; storage</h1>
      </div>
      <div className={css.columns}>
        <div className={css.lanes}>
          {running.map((d) => (
            <Dryer key={d.id} d={d} />
          ))}
          {shelves.map((p) => (
            <Shelf key={p.storage + p.place} place={p} picked={picked} onPick={(id) => setPicked(picked.includes(id) ? picked.filter((x) => x !== id) : [...picked, id])} />
          ))}
        </div>
        <aside className={css.side}>
          <Act spools={chosen} places={shelves} devices={[...new Set(dryings.data.items.map((d) => d.device))]} onDone={() => setPicked([])} />
          {ended.length > 0 && <Ended items={ended} />}
        </aside>
      </div>
    </div>
  );
}

function Shelf({ place: p, picked, onPick }: { place: Place; picked: readonly string[]; onPick: (id: string) => void }) {
  return (
    <section className={css.lane} data-storage={p.storage} aria-label={p.place || p.storage}>
      <div className={css.laneHead}>
        <h2>{p.place || p.storage}</h2>
        <span className="soft">{p.place ? p.storage : "no place named"}</span>
        {p.humidity !== null && (
          <span style={p.humidity > 20 ? { color: "var(--caution)" } : undefined}>
            <span className="figure">{p.humidity}</span> % RH <span className="soft">{p.read_at && onDay(p.read_at)}</span>
          </span>
        )}
      </div>
      <div className={css.spools}>
        {p.spools.map((s) => (
          <button key={s.id} type="button" className={css.spool} aria-pressed={picked.includes(s.id)} onClick={() => onPick(s.id)}>
            <Swatch hex={s.material.hex} mark={s.material.mark} filled={s.material.filler !== null} size={30} />
            <span>
              <span>
                <span className="figure">{s.code}</span> <IntakeMark verdict={s.verdict} short /> {s.material.maker} {s.material.product}, {s.material.colour}
              </span>
              <span className={css.words}>{s.words}</span>
            </span>
          </button>
        ))}
      </div>
    </section>
  );
}

function Dryer({ d }: { d: Drying }) {
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const [masses, setMasses] = useState<Record<string, string>>({});
  const [to, setTo] = useState<"dry box" | "sealed bag" | "open">("dry box");
  const [place, setPlace] = useState("");
  const [humidity, setHumidity] = useState<number | string>("");
  const [asks, setAsks] = useState<Asked[]>([]);
  const [confirmed, setConfirmed] = useState<string[]>([]);
  const [problem, setProblem] = useState<string | null>(null);
  const [now] = useState(() => Date.now());
  const start = new Date(d.started_at).getTime();
  const due = new Date(d.due_at).getTime();
  const share = Math.min(1, Math.max(0, (now - start) / (due - start)));
  const end = async (also: string[] = confirmed) => {
    try {
      const body = {
        ended_at: new Date().toISOString(),
        members: d.members.map((m) => ({ spool_id: m.spool_id, raw: masses[m.spool_id] ?? "" })),
        storage: to,
        place,
        humidity: humidity === "" ? null : Number(humidity),
        confirmed: also,
      };
      unwrap<Drying>(await client.PUT("/api/dryings/{drying_id}/end", { params: { path: { drying_id: d.id }, header: { "if-match": `"${d.revision}"` } }, body }));
      refreshStock(queries);
    } catch (error) {
      const questions = error instanceof Problem ? questionsOf(error.body) : [];
      setAsks(questions);
      setProblem(questions.length ? null : messageOf(error));
    }
  };
  const undo = async () => {
    try {
      unwrap<Drying>(await client.PUT("/api/dryings/{drying_id}/undone", { params: { path: { drying_id: d.id }, query: { what: "all" } } }));
      refreshStock(queries);
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
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
          <Button type="submit">Taken out</Button>
        </form>
      )}
      {problem && (
        <p role="alert" style={{ color: "var(--worse)" }}>
          {problem}
        </p>
      )}
      <Questions
        questions={asks}
        onLikely={(q) => setAsks(asks.filter((a) => a.key !== q.key))}
        onConfirm={(q) => {
          const all = [...confirmed, q.key];
          setConfirmed(all);
          setAsks(asks.filter((a) => a.key !== q.key));
          void end(all);
        }}
      />
    </section>
  );
}

interface ActProps {
  spools: Schemas["PlaceSpool"][];
  places: Place[];
  devices: string[];
  onDone: () => void;
}

/** What to do with the picked spools. */
function Act({ spools, places, devices, onDone }: ActProps) {
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
  const [storage, setStorage] = useState<"dry box" | "sealed bag" | "open">("dry box");
  const [humidity, setHumidity] = useState<number | string>("");
  const [asks, setAsks] = useState<Asked[]>([]);
  const [problem, setProblem] = useState<string | null>(null);
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
    setAsks([]);
    setProblem(null);
    setMasses({});
    onDone();
  };
  const fail = (error: unknown) => {
    const questions = error instanceof Problem ? questionsOf(error.body) : [];
    setAsks(questions);
    setProblem(questions.length ? null : messageOf(error));
  };
  const temperature = heat === "" ? (asked?.dry_temperature ?? null) : Number(heat);
  const time = hours === "" ? (asked?.dry_time ?? null) : Number(hours);
  const dry = async (confirmed: string[] = []) => {
    if (temperature === null || time === null) return;
    try {
      const members = spools.map((s) => ({ spool_id: s.id, raw: masses[s.id] ?? "" }));
      unwrap<Drying>(await client.POST("/api/dryings", { body: { id, device, temperature, hours: time, started_at: new Date().toISOString(), members, note: "", confirmed } }));
      finish();
    } catch (error) {
      fail(error);
    }
  };
  const move = async () => {
    const place = places.find((p) => `${p.storage}|${p.place}` === to);
    try {
      const body = {
        moves: spools.map((s) => ({ id: newId(), spool_id: s.id })),
        storage: (place?.storage ?? storage) as typeof storage,
        place: place ? place.place : newPlace,
        humidity: humidity === "" ? null : Number(humidity),
        at: new Date().toISOString(),
      };
      unwrap<Schemas["PlaceList"]>(await client.POST("/api/storage", { body }));
      finish();
    } catch (error) {
      fail(error);
    }
  };
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
        <Button type="submit" disabled={!device.trim() || temperature === null || time === null}>
          Into the dryer
        </Button>
      </form>
      <Questions questions={asks} onLikely={(q) => setAsks(asks.filter((a) => a.key !== q.key))} onConfirm={() => void dry(asks.map((a) => a.key))} />
      {problem && (
        <p role="alert" style={{ color: "var(--worse)" }}>
          {problem}
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

function Ended({ items }: { items: Drying[] }) {
  const queries = useQueryClient();
  const undo = async (id: string) => {
    await client.PUT("/api/dryings/{drying_id}/undone", { params: { path: { drying_id: id }, query: { what: "end" } } });
    refreshStock(queries);
  };
  return (
    <section className={css.act}>
      <h2>What drying took out</h2>
      <ul className={css.ended}>
        {items.map((d) => (
          <li key={d.id}>
            <div>
              <strong>{d.device}</strong> <span className="figure">{d.temperature} °C</span>{" "}
              <span className="soft">
                {((new Date(d.ended_at ?? "").getTime() - new Date(d.started_at).getTime()) / 3_600_000).toFixed(0)} h, ended {atMinute(d.ended_at ?? "")}
              </span>{" "}
              <button type="button" className={css.undo} onClick={() => void undo(d.id)}>
                undo: still runs
              </button>
            </div>
            {d.members.map((m) => (
              <div key={m.spool_id} className={css.lost}>
                <Swatch hex={m.material.hex} mark={m.material.mark} filled={m.material.filler !== null} size={22} />
                <Link to="/stock/spools/$spoolId" params={{ spoolId: m.spool_id }} className="figure">
                  {m.code}
                </Link>
                <svg width="120" height="10" aria-hidden="true">
                  <rect width={Math.min(120, (m.lost ?? 0) * 100 * 60)} height="10" rx="2" fill="var(--accent)" />
                </svg>
                <span className="figure">{m.lost === null ? "not weighed" : `${(100 * m.lost).toFixed(2)} %`}</span>
              </div>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}
