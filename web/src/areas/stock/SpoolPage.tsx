import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useForm } from "@mantine/form";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { outbox, type Went } from "../../api/outbox";
import { refreshStock, spoolOptions } from "../../api/queries/stock";
import { BalanceSteps } from "../../figures/BalanceSteps";
import { DiameterStrip, TOLERANCE } from "../../figures/DiameterStrip";
import { FigureFrame } from "../../figures/FigureFrame";
import { MoistureLine } from "../../figures/MoistureLine";
import { atMinute, fixed, inShown, onDay } from "../../ui/format";
import { ErrorNote, KeptHere, Refusal, Waiting } from "../../ui/Notes";
import { readNumber, typed } from "../../ui/number";
import { Questions } from "../../ui/Questions";
import { LinkButton } from "../../ui/LinkButton";
import { composition, Swatch } from "../../ui/Swatch";
import { useAsking } from "../../ui/useAsking";
import { LookAgain } from "../day/LookAgain";
import { FitPanel } from "./FitPanel";
import { FoundWet } from "./FoundWet";
import css from "./parts.module.css";
import { IntakeMark, isDried, moistureDoubt, shareLeft, TurnsLeft } from "./SpoolMarks";
import { shownUnit } from "../../ui/units";
import { BODY, LOOSE_END } from "./intake";
import { Amount } from "../../ui/Amount";

type Page = Schemas["SpoolPage"];

/** One spool: what is left, how dry it is, what was found on it, and whether it may be printed. */
export function SpoolPage() {
  const { spoolId } = useParams({ from: "/stock/spools/$spoolId" });
  const spool = useQuery(spoolOptions(spoolId));
  if (spool.isPending) return <Waiting what="Fetching the spool …" />;
  if (spool.isError) return <ErrorNote error={spool.error} again={() => void spool.refetch()} />;
  return <View key={spoolId} s={spool.data} />;
}

function View({ s }: { s: Page }) {
  const m = s.material;
  const intake = s.intakes[0];
  return (
    <div className="page">
      <div className={css.titled}>
        <TurnsLeft hex={m.hex} share={s.gone_at ? 0 : shareLeft(s)} height={40} />
        <div>
          <Link to="/stock" className={css.back}>
            Stock
          </Link>
          <h1 className="figure">{s.code}</h1>
        </div>
        <Swatch hex={m.hex} mark={m.mark} filled={m.filler !== null} size={40} />
        <div>
          <Link to="/stock/materials/$materialId" params={{ materialId: m.id }}>
            {m.maker} {m.product}, {m.colour}
          </Link>
          <div className="soft">
            {composition(m)} · lot {s.lot || "–"} · came {onDay(s.received_on)}
          </div>
        </div>
        <div style={{ fontSize: "1.15rem" }}>
          <IntakeMark decision={s.decision} dried={isDried(s)} />
          <div className={css.small} style={{ color: moistureDoubt(s) ? "var(--caution)" : "var(--soft)" }}>
            {s.gone_at ? `gone: ${s.gone_why}` : s.moisture.words}
            {s.place && ` · ${s.place}`}
          </div>
        </div>
        <div className={css.tools}>
          <LinkButton to="/stock/intake" search={{ spool: s.id }} variant="default">
            {s.intakes.length ? "Check again" : "Check it"}
          </LinkButton>
          <LinkButton to="/stock/labels" search={{ code: s.code }} variant="default">
            Label
          </LinkButton>
        </div>
      </div>
      <FoundWet spoolId={s.id} />
      <div className={css.columns}>
        <div className={css.stack}>
          <Balance s={s} />
          <section className={css.panel} aria-label="Moisture">
            <FigureFrame title="Where it lay, when it was dried" name="storage" about={{ kind: "spool", name: s.code }} rows={() => storageRows(s)}>
              <MoistureLine moves={s.moves} sessions={s.sessions} from={s.received_on} />
            </FigureFrame>
            <Link to="/stock/drying" search={{ spool: s.id }} className={css.small}>
              Dry it or put it somewhere
            </Link>
          </section>
          <LookAgain kind="spool" id={s.id} className={css.panel ?? ""} />
          <Record s={s} />
        </div>
        <div className={css.stack}>
          <FitPanel spool={s} />
          {intake ? <Intake intake={intake} s={s} /> : <section className={css.panel}>Not checked yet: the intake sheet takes about a minute.</section>}
        </div>
      </div>
    </div>
  );
}

/** What is left over time, and the two ways to change it. */
function Balance({ s }: { s: Page }) {
  return (
    <section className={css.panel} aria-label="Filament left">
      <FigureFrame
        title={
          <>
            <span className="figure" style={{ fontSize: "1.5rem" }} data-testid="left">
              {s.left === null ? "?" : inShown(s.left, "g", 0)}
            </span>{" "}
            {shownUnit("g").unit} left{" "}
            <span className={`soft ${css.small}`}>
              {s.weighed_at ? `weighed ${onDay(s.weighed_at)}` : "by the label, not weighed"}
              {s.left !== null && s.left < 0 && ": prints took more than was there, weigh it"}
            </span>
          </>
        }
        name="filament left"
        about={{ kind: "spool", name: s.code }}
        rows={() => [["at", "event", `left, ${shownUnit("g").unit}`, `correction, ${shownUnit("g").unit}`], ...s.course.map((p) => [p.at, p.event, shownUnit("g").at(p.left), p.correction === null ? null : p.correction * shownUnit("g").factor])]}
      >
        {s.course.length > 0 && <BalanceSteps points={s.course} label={s.label_net} from={s.received_on} hex={s.material.hex} />}
      </FigureFrame>
      <div className={css.entry}>
        <BalanceEntry s={s} kind="weigh" />
        <BalanceEntry s={s} kind="use" />
      </div>
    </section>
  );
}

/** A mass read off the scales, or what a print took: with what the server asks about it. */
function BalanceEntry({ s, kind }: { s: Page; kind: "weigh" | "use" }) {
  const form = useForm({ initialValues: { id: newId(), raw: "", what: "" } });
  const asking = useAsking();
  const queries = useQueryClient();
  const weigh = kind === "weigh";
  const [went, setWent] = useState<Went>("sent");
  const send = (confirmed: string[] = []) =>
    asking.attempt(async () => {
      const { what, ...typed } = form.getValues();
      const body = { ...typed, at: new Date().toISOString(), confirmed };
      const about = { spool_id: s.id, code: s.code, added_at: Date.now() };
      setWent(await outbox.deliver(weigh ? { kind: "weighing", body, ...about } : { kind: "use", body: { ...body, what }, ...about }));
      refreshStock(queries);
      asking.reset();
      form.setValues({ id: newId(), raw: "", what: "" });
    });
  return (
    <div>
      <form className={css.entry} onSubmit={form.onSubmit(() => void send())}>
        <TextInput label={weigh ? "On the scales, g" : "A print took, g"} {...form.getInputProps("raw")} inputMode="decimal" w={weigh ? 130 : 110} />
        {!weigh && <TextInput aria-label="What was printed" placeholder="what" {...form.getInputProps("what")} w={120} />}
        <Button type="submit" variant="default" disabled={!form.values.raw.trim()}>
          {weigh ? "Weighed" : "Printed"}
        </Button>
      </form>
      <Refusal text={asking.problem?.text} />
      <KeptHere went={went} />
      <Questions
        questions={asking.questions}
        onLikely={(q, likely) => {
          asking.drop(q);
          form.setFieldValue("raw", likely);
        }}
        onConfirm={(q) => {
          const { keys, last } = asking.confirm(q);
          if (last) void send(keys);
        }}
      />
    </div>
  );
}

function Intake({ intake, s }: { intake: Schemas["IntakeView"]; s: Page }) {
  const found = intake.findings as Record<string, string | number | null>;
  const d = intake.summary;
  const facts = [
    ["seal", found["seal"]],
    ["desiccant", found["desiccant"]],
    ["winding", found["winding"]],
    ["strand", found["snap"] && `${found["snap"]}${found["snap_known_good"] ? `, a good one ${found["snap_known_good"]}` : ""}`],
    ["popping", found["popping"]],
  ].filter(([, v]) => v);
  return (
    <section className={css.panel} aria-label="Intake">
      <h2>
        Found at intake <span className={`soft ${css.small}`}>{`${atMinute(intake.happened_at)}, ${intake.who}`}</span>
      </h2>
      <p style={{ margin: "0 0 0.3rem" }}>
        <IntakeMark decision={intake.decision} />
        {intake.decision !== intake.proposed && (
          <span>
            {" "}
            although the checks said “{intake.proposed}”: {intake.note}
          </span>
        )}
      </p>
      {intake.reasons.length > 0 && (
        <ul style={{ margin: "0 0 0.5rem", paddingLeft: "1.1rem" }} className={css.small}>
          {intake.reasons.map((r) => (
            <li key={r.text}>{r.text}</li>
          ))}
        </ul>
      )}
      <p className={css.small} style={{ margin: "0 0 0.4rem" }}>
        {facts.map(([k, v], i) => (
          <span key={String(k)}>
            {i > 0 && " · "}
            <span className="soft">{k}</span> {v}
          </span>
        ))}
      </p>
      {d && (
        <>
          <FigureFrame title="Diameter of the strand" name="diameter" about={{ kind: "spool", name: s.code }} rows={() => [["reading", `diameter, ${shownUnit("mm").unit}`], ...intake.diameters.map((v, i) => [i + 1, shownUnit("mm").at(v)])]}>
            <DiameterStrip values={intake.diameters} nominal={s.material.diameter} tolerance={s.window.tolerance ?? TOLERANCE} mean={d.mean} />
          </FigureFrame>
          <p className={css.small} style={{ margin: 0 }}>
            n {d.n} · mean <Amount value={d.mean} unit="mm" decimals={3} /> · scatter {d.sd === null ? "–" : <Amount value={d.sd} unit="mm" decimals={4} />} · ovality{" "}
            <span className="figure">{d.ovality === null ? "–" : fixed(100 * d.ovality, 2)}</span> % · flow × <span className="figure">{fixed(d.flow_factor, 4)}</span>
          </p>
        </>
      )}
      {s.intakes.length > 1 && (
        <p className={`soft ${css.small}`} style={{ margin: "0.5rem 0 0" }}>
          Earlier: {s.intakes.slice(1).map((i) => `${onDay(i.happened_at)} ${i.decision}`).join(", ")}
        </p>
      )}
    </section>
  );
}

type Entry = { kind: "weighings" | "filament-uses" | "moves"; id: string };

/** Every entry with who and when; any of them can be taken back. */
function Record({ s }: { s: Page }) {
  const queries = useQueryClient();
  const [gone, setGone] = useState<Entry | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const rows = [
    ...s.weighings.map((w) => ({ kind: "weighings" as const, id: w.id, at: w.at, who: w.who, text: `weighed ${w.raw}${/[a-z]/i.test(w.raw) ? "" : " g"}${w.moment === "check" ? "" : ` (${w.moment})`}`, free: w.moment === "check" || w.moment === "intake" })),
    ...s.uses.map((u) => ({ kind: "filament-uses" as const, id: u.id, at: u.at, who: u.who, text: `printed ${u.mass.toFixed(1)} g${u.what ? `: ${u.what}` : ""}`, free: true })),
    ...s.moves.map((v) => ({ kind: "moves" as const, id: v.id, at: v.at, who: v.who, text: `${v.storage}${v.place ? `, ${v.place}` : ""}${v.humidity !== null ? `, ${v.humidity} % RH` : ""}`, free: true })),
  ].sort((a, b) => b.at.localeCompare(a.at));
  const retract = async ({ kind, id }: Entry, back: boolean) => {
    const params = { params: { path: { key: id }, query: { back } } };
    try {
      const answer =
        kind === "weighings" ? await client.PUT("/api/weighings/{key}/retraction", params) : kind === "moves" ? await client.PUT("/api/moves/{key}/retraction", params) : await client.PUT("/api/filament-uses/{key}/retraction", params);
      queries.setQueryData(spoolOptions(s.id).queryKey, unwrap<Page>(answer));
      refreshStock(queries);
      setGone(back ? null : { kind, id });
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <section className={css.panel} aria-label="Record">
      <h2>Record</h2>
      <Edit s={s} />
      {gone && (
        <p className={css.small}>
          Taken back.{" "}
          <button type="button" className={css.undo} onClick={() => void retract(gone, true)}>
            Undo
          </button>
        </p>
      )}
      <Refusal text={problem} />
      <ul className={css.lines} style={{ marginTop: 10 }}>
        {rows.slice(0, 40).map((r) => (
          <li key={r.id} className={css.small} style={{ display: "flex", gap: 10 }}>
            <span className="soft" style={{ width: 118 }}>
              {atMinute(r.at)}
            </span>
            <span style={{ flex: 1 }}>{r.text}</span>
            <span className="soft">{r.who}</span>
            {r.free && (
              <button type="button" className={css.undo} aria-label={`Take back: ${r.text}`} onClick={() => void retract(r, false)}>
                take back
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function storageRows(s: Page): (string | number | null)[][] {
  const moves = s.moves.map((m) => [m.at, m.storage, m.place, m.humidity, null]);
  const dryings = s.sessions.map((d) => [d.started_at, "dryer", d.device, null, d.lost === null ? null : 100 * d.lost]);
  return [["at", "storage", "place", "humidity, %", "moisture lost, %"], ...[...moves, ...dryings].sort((a, b) => String(a[0]).localeCompare(String(b[0])))];
}

function Edit({ s }: { s: Page }) {
  const queries = useQueryClient();
  const [empty, setEmpty] = useState(typed(s.empty));
  const [heat, setHeat] = useState(typed(s.heat_limit));
  const [bore, setBore] = useState(typed(s.bore));
  const [body, setBody] = useState(s.body);
  const [looseEnd, setLooseEnd] = useState(s.loose_end);
  const [problem, setProblem] = useState<string | null>(null);
  const save = async (body: Schemas["SpoolEdit"]) => {
    try {
      const page = unwrap<Page>(await client.PATCH("/api/spools/{spool_id}", { params: { path: { spool_id: s.id }, header: { "if-match": `"${s.revision}"` } }, body }));
      queries.setQueryData(spoolOptions(s.id).queryKey, page);
      refreshStock(queries);
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const changed = empty !== typed(s.empty) || heat !== typed(s.heat_limit) || bore !== typed(s.bore) || body !== s.body || looseEnd !== s.loose_end;
  const wrong = [empty, heat, bore].some((text) => readNumber(text) === undefined);
  return (
    <form
      className={css.entry}
      onSubmit={(e) => {
        e.preventDefault();
        void save({ empty: readNumber(empty) ?? null, heat_limit: readNumber(heat) ?? null, bore: readNumber(bore) ?? null, body, loose_end: looseEnd });
      }}
    >
      <TextInput label="Empty spool, g" value={empty} onChange={(e) => setEmpty(e.currentTarget.value)} inputMode="decimal" w={120} />
      <TextInput label="Spool bears, °C" value={heat} onChange={(e) => setHeat(e.currentTarget.value)} inputMode="decimal" w={120} />
      <NativeSelect label="Its body" data={BODY} value={body} onChange={(e) => setBody(e.currentTarget.value as typeof body)} w={150} />
      <TextInput label="Bore, mm" value={bore} onChange={(e) => setBore(e.currentTarget.value)} inputMode="decimal" w={120} error={readNumber(bore) === undefined} />
      <NativeSelect label="Loose end" data={LOOSE_END} value={looseEnd} onChange={(e) => setLooseEnd(e.currentTarget.value as typeof looseEnd)} w={170} />
      <Button type="submit" variant="default" disabled={!changed || wrong}>
        Save
      </Button>
      <Button variant="subtle" ml="auto" onClick={() => void save({ gone_why: s.gone_at ? "" : "used up" })}>
        {s.gone_at ? "It is back" : "Used up"}
      </Button>
      {!s.gone_at && (
        <Button variant="subtle" onClick={() => void save({ gone_why: "thrown away" })}>
          Thrown away
        </Button>
      )}
      <Refusal text={problem} />
    </form>
  );
}
