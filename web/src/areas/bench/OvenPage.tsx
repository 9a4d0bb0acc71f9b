import { Button, NativeSelect } from "@mantine/core";
import { useLocalStorage } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { type ReactNode, useEffect, useRef, useState } from "react";

import type { Schemas } from "../../api/client";
import { ovensOptions, queueOptions } from "../../api/queries/bench";
import { declarationsOptions, rigsOptions } from "../../api/queries/rigs";
import { studyOptions } from "../../api/queries/studies";
import { unitOf } from "../../capture/parts";
import { inText, atMinute } from "../../ui/format";
import { Empty, ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { ArmSwatch } from "../../ui/Swatch";
import { LETTERS, seenAt } from "./oven";
import { OvenLog } from "./OvenLog";
import { OvenStrip } from "./OvenStrip";
import css from "./oven.module.css";
import { inside } from "./sittings";
import { type Oven, useOven } from "./useOven";

/** An oven with several specimens: the thermometer is typed, a letter tells which one sags, all on one strip. */
export function OvenPage() {
  const { testId } = useParams({ from: "/bench/oven/$testId" });
  const [blind] = useLocalStorage({ key: "assayer.blind", defaultValue: false, getInitialValueInEffect: false });
  const queue = useQuery(queueOptions(testId, blind));
  const study = useQuery({ ...studyOptions(queue.data?.study_id ?? ""), enabled: Boolean(queue.data) });
  const rigs = useQuery(rigsOptions());
  const declared = useQuery(declarationsOptions());
  const failed = queue.error ?? study.error ?? rigs.error ?? declared.error;
  if (failed && (!queue.data || !study.data || !rigs.data || !declared.data)) return <ErrorNote error={failed} again={() => void queue.refetch()} />;
  if (!queue.data || !study.data || !rigs.data || !declared.data) return <Waiting what="Looking what waits for the oven …" />;
  const test = study.data.tests.find((t) => t.id === testId);
  const step = declared.data.methods.find((m) => m.name === test?.method)?.steps.find((s) => s.kind === "ramp");
  const fields = step?.fields.filter((f, i) => f.usual > 0 && i < step.fields.length - 2) ?? [];
  if (!test || !step || !fields.length) return <Empty title="Nothing of this test is seen in an oven">Choose another test from the bench.</Empty>;
  const serving = rigs.data.items.filter((r) => r.methods.includes(test.method));
  if (!serving.length) {
    return (
      <Empty title="No oven does this test yet">
        <Link to="/rigs/new" search={{ method: test.method }}>
          Add it as a rig
        </Link>
        , with the thermometer that is read.
      </Empty>
    );
  }
  const beside = { course: step.fields.find((f) => f.counts_from !== null)?.name ?? null, looked: step.fields.find((f) => f.from_rig === "noticed_step")?.name ?? null };
  return <Sitting key={testId} test={test} fields={fields} beside={beside} rigs={serving} items={queue.data.items} studyId={queue.data.study_id} title={study.data.title} blind={blind} />;
}

interface SittingProps {
  test: Schemas["TestView"];
  fields: readonly Schemas["FieldView"][];
  /** The fields of what the oven shows over time, and of how often it was looked at. */
  beside: { course: string | null; looked: string | null };
  rigs: readonly Schemas["RigView"][];
  items: readonly Schemas["QueueItem"][];
  studyId: string;
  title: string;
  blind: boolean;
}

function Sitting({ test, fields, beside, rigs, items, studyId, title, blind }: SittingProps) {
  const oven = useOven(test.id, fields, test.outcomes, beside.course, beside.looked);
  const running = useQuery(ovensOptions(test.id)).data?.items.filter((o) => o.id !== oven.forgotten?.id) ?? [];
  const navigate = useNavigate();
  const { sitting } = oven;
  const rig = rigs.find((r) => r.id === sitting.rig) ?? rigs[0];
  const taken = running.flatMap((o) => inside(o).map((m) => m.specimen_id));
  const waiting = items.filter((i) => (i.state === "waiting" || i.state === "measured") && !taken.includes(i.specimen_id));
  const unit = rig && fields[0] ? unitOf(rig, fields[0]) : "°C";
  const every = sitting.every?.trim() || rig?.geometry["noticed_step"]?.toString();
  const head = (
    <div className={css.head}>
      <h1>Oven: {inText(test.label)}</h1>
      <span className="soft">
        {title} · {test.orientation} · {rig?.name}
      </span>
      <span style={{ flex: 1 }} />
      <Link to="/bench" search={{ test: test.id }}>
        one by one
      </Link>
    </div>
  );
  if (!oven.kept.id) return <Before oven={oven} head={head} running={running} waiting={waiting} rigs={rigs} />;
  if (oven.over) {
    return (
      <div className="page">
        {head}
        <OvenStrip sitting={sitting} fields={fields} unit={unit} />
        <p role="status">
          {oven.over.forgotten ? "This sitting was forgotten at another device." : "The specimens were taken out at another device: what was seen of them is kept with them."}{" "}
          <Button size="compact-sm" variant="default" onClick={oven.close}>
            Close it here
          </Button>
        </p>
      </div>
    );
  }
  const out = async (agreed: boolean) => {
    if (await oven.takeOut(agreed)) await navigate({ to: "/studies/$studyId/findings", params: { studyId }, search: { test: test.id } });
  };
  return (
    <div className="page">
      {head}
      <OvenStrip sitting={sitting} fields={fields} unit={unit} />
      <Thermometer oven={oven} unit={unit} every={every} />
      <OvenLog oven={oven} every={every} />
      <ul className={css.lanes} aria-label="In the oven">
        {sitting.members.map((m) => (
          <Lane key={m.specimen_id} oven={oven} member={m} item={items.find((x) => x.specimen_id === m.specimen_id)} test={test} fields={fields} unit={unit} blind={blind} />
        ))}
      </ul>
      {oven.asked && (
        <div role="alert" className={css.asked}>
          <span>{oven.asked}</span>
          <span className={css.ends}>
            <Button variant="default" onClick={() => void out(true)}>
              End here
            </Button>
            <Button autoFocus onClick={oven.goOn}>
              Go on heating
            </Button>
          </span>
        </div>
      )}
      <div className={css.foot}>
        <span className="soft">
          <kbd>Enter</kbd> keeps the temperature · a letter tells what is seen of that specimen · <kbd>U</kbd> takes the last back
        </span>
        <span className={css.ends}>
          <Button variant="subtle" onClick={oven.forget}>
            Forget this sitting
          </Button>
          <button type="button" data-thumb className={css.out} aria-disabled={!oven.ready} onClick={() => oven.ready && void out(false)}>
            Take them out
          </button>
        </span>
      </div>
    </div>
  );
}

interface BeforeProps {
  oven: Oven;
  head: ReactNode;
  running: readonly Schemas["OvenView"][];
  waiting: readonly Schemas["QueueItem"][];
  rigs: readonly Schemas["RigView"][];
}

/** Nothing is in an oven here yet: go on with what is in one, or put some in. */
function Before({ oven, head, running, waiting, rigs }: BeforeProps) {
  return (
    <div className="page">
      {head}
      <Running ovens={running} onOpen={oven.open} />
      {oven.forgotten && (
        <p role="status">
          The sitting was forgotten.{" "}
          <Button size="compact-sm" variant="default" onClick={() => void oven.bringBack()}>
            Bring it back
          </Button>
        </p>
      )}
      <Refusal text={oven.notice} />
      {(waiting.length > 0 || !running.length) && <Begin rigs={rigs} waiting={waiting} busy={oven.busy} onBegin={(rig, going) => void oven.begin(rig, going)} />}
    </div>
  );
}

/** Ovens under way that were begun at another device: anybody goes on where they are. */
function Running({ ovens, onOpen }: { ovens: readonly Schemas["OvenView"][]; onOpen: Oven["open"] }) {
  if (!ovens.length) return null;
  return (
    <ul className={css.running} aria-label="Under way">
      {ovens.map((o, i) => (
        <li key={o.id}>
          <span>
            <strong>{o.device}:</strong> {inside(o).map((m) => m.code).join(", ")}
            <span className="soft">
              {" "}
              · put in by {o.who}, {atMinute(o.started_at)}
            </span>
          </span>
          <Button data-autofocus={i === 0 || undefined} autoFocus={i === 0} onClick={() => onOpen(o)}>
            Go on with it
          </Button>
        </li>
      ))}
    </ul>
  );
}

interface BeginProps {
  rigs: readonly Schemas["RigView"][];
  waiting: readonly Schemas["QueueItem"][];
  busy: boolean;
  onBegin: (rig: string, going: readonly Schemas["QueueItem"][]) => void;
}

/** Which specimens go in together. */
function Begin({ rigs, waiting, busy, onBegin }: BeginProps) {
  const [rig, setRig] = useState(rigs[0]?.id ?? "");
  const places = rigs.find((r) => r.id === rig)?.places ?? 1;
  const most = Math.min(places > 1 ? places : 9, LETTERS.length);
  const [left, setLeft] = useState<readonly string[]>([]);
  if (!waiting.length) return <Empty title="Nothing waits for the oven">Every specimen that is printed has been tested.</Empty>;
  const going = waiting.filter((i) => !left.includes(i.specimen_id)).slice(0, most);
  return (
    <>
      <p>
        {going.length} of {waiting.length} that wait go in, in the random order of the test{places > 1 ? `: the oven has ${String(places)} places` : ""}. Leave out whom you like.
      </p>
      <ul className={css.chosen}>
        {waiting.map((i) => (
          <li key={i.specimen_id}>
            <button type="button" aria-pressed={going.includes(i)} onClick={() => setLeft((l) => (l.includes(i.specimen_id) ? l.filter((x) => x !== i.specimen_id) : [...l, i.specimen_id]))}>
              {i.code}
            </button>
          </li>
        ))}
      </ul>
      <div className={css.ends}>
        {rigs.length > 1 && <NativeSelect aria-label="Oven" value={rig} onChange={(e) => setRig(e.currentTarget.value)} data={rigs.map((r) => ({ value: r.id, label: r.name }))} />}
        <Button data-autofocus autoFocus disabled={!going.length} loading={busy} onClick={() => onBegin(rig, going)}>
          Put {going.length} in
        </Button>
      </div>
    </>
  );
}

/** What the oven shows, typed; letters go to the specimens from here too. */
function Thermometer({ oven, unit, every }: { oven: Oven; unit: string; every: string | undefined }) {
  const [raw, setRaw] = useState("");
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    field.current?.focus();
  }, []);
  const act = (key: string): boolean => {
    if (key === "enter") {
      if (raw.trim() && oven.read(raw.trim())) setRaw("");
    } else if (key === "u") oven.undo();
    else if (key.length === 1 && LETTERS.includes(key)) oven.mark(key);
    else return false;
    return true;
  };
  const keys = (e: React.KeyboardEvent | KeyboardEvent) => {
    if (!e.ctrlKey && !e.metaKey && !e.altKey && act(e.key.toLowerCase())) e.preventDefault();
  };
  useEffect(() => {
    // after a touch of a letter or of ×, what is typed still belongs here
    const elsewhere = (e: KeyboardEvent) => {
      const at = e.target;
      if (!(at instanceof HTMLElement) || at.closest("input, select, textarea, [role=dialog], [role=menu]")) return;
      if (/^[\d.,-]$/.test(e.key)) field.current?.focus();
      else if (e.key !== "Enter" || at === document.body) keys(e);
    };
    window.addEventListener("keydown", elsewhere);
    return () => window.removeEventListener("keydown", elsewhere);
  });
  return (
    <div className={css.now}>
      <label className={css.shows}>
        <span className="soft">the oven shows, {unit}</span>
        <input ref={field} inputMode="decimal" autoComplete="off" value={raw} onChange={(e) => setRaw(e.currentTarget.value)} onKeyDown={keys} />
      </label>
      <span className="soft" role="status">
        {oven.notice ?? (oven.sitting.logged || oven.sitting.log ? "press a letter the moment something is seen: the logger’s file tells at which temperature" : every === undefined ? "looked at as often as the temperature is typed" : `look and type every ${every} ${unit}: the onset is half a step before it is seen`)}
      </span>
    </div>
  );
}

/** The temperature at which something was seen, or when, as long as only the logger knows it. */
function Shown({ raw, at, unit }: { raw: string; at: number; unit: string }) {
  if (!raw) return <strong>{new Date(at).toTimeString().slice(0, 8)}</strong>;
  return (
    <>
      <strong>{raw}</strong> {raw.endsWith("°C") ? "" : unit}
    </>
  );
}

interface LaneProps {
  oven: Oven;
  member: Oven["sitting"]["members"][number];
  item: Schemas["QueueItem"] | undefined;
  test: Schemas["TestView"];
  fields: readonly Schemas["FieldView"][];
  unit: string;
  blind: boolean;
}

function Lane({ oven, member, item, test, fields, unit, blind }: LaneProps) {
  const own = oven.sitting.seen.filter((s) => s.specimen_id === member.specimen_id);
  const others = test.outcomes.filter((o) => o.bound === "exact");
  return (
    <li className={css.lane} data-seen={own.length || undefined}>
      <button type="button" data-thumb className={css.letter} aria-label={`${member.code}: seen now`} onClick={() => oven.mark(member.letter)}>
        <kbd>{member.letter.toUpperCase()}</kbd>
      </button>
      <strong className={css.code}>{member.code}</strong>
      {!blind && item?.arm && (
        <span className={css.arm}>
          <ArmSwatch arm={item.arm} size={22} /> {item.arm.material.product}
        </span>
      )}
      <span className={css.told}>
        {own.length
          ? own.map((s) => (
              <span key={s.id}>
                {fields.find((f) => f.name === s.field)?.label} <Shown raw={seenAt(oven.sitting, s)} at={s.at} unit={unit} />
              </span>
            ))
          : "stands"}
      </span>
      {own.length > 0 && others.length > 1 && (
        <NativeSelect size="xs" aria-label={`How ${member.code} ended`} value={member.outcome ?? others[0]?.name ?? ""} onChange={(e) => oven.tell(member.specimen_id, e.currentTarget.value)} data={others.map((o) => ({ value: o.name, label: o.label }))} />
      )}
      <button type="button" className={css.leave} aria-label={`Leave ${member.code} out of this sitting`} onClick={() => oven.leave(member.specimen_id)}>
        ×
      </button>
    </li>
  );
}
