import { SegmentedControl, Select, Switch } from "@mantine/core";
import { useLocalStorage } from "@mantine/hooks";
import { useCallback, useRef, useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { outbox } from "../../api/outbox";
import { usePerson } from "../../api/person";
import { ago } from "../../ui/format";
import { type Accepted, AtSpecimen, draftKey } from "./AtSpecimen";
import css from "./bench.module.css";
import { started } from "./entry";
import { Chips, Finished, QueueRefresh, settledOnly } from "./StationParts";

type Item = Schemas["QueueItem"];

interface StationProps {
  test: Schemas["TestView"];
  method: Schemas["MethodView"];
  studyTitle: string;
  items: Item[];
  rigs: Schemas["RigView"][];
  reasons: readonly string[];
  blind: boolean;
  onBlind: (blind: boolean) => void;
  /** Specimen to begin with. */
  wanted: string | undefined;
  onOtherTest: (testId: string, specimenId: string) => void;
  onTested: (specimenId: string) => void;
}

/** What all methods share at the bench: the queue, the rig, scans, undo. */
export function Station(props: StationProps) {
  const { test, method, items, rigs, blind } = props;
  const person = usePerson();
  const [rigId, setRigId] = useLocalStorage<string | null>({ key: `assayer.rig.${test.method}`, defaultValue: null, getInitialValueInEffect: false });
  const rig = rigs.find((r) => r.id === rigId) ?? rigs.find((r) => r.calibrated_at) ?? rigs[0];
  const hasDimensions = method.steps.some((s) => s.kind === "section") && method.steps.some((s) => s.kind === "peak");
  const [round, setRound] = useState<"test" | "dimensions">("test");
  const dimensionsOnly = round === "dimensions" && hasDimensions;
  /** What was accepted here, ahead of what the server's queue says. */
  const [done, setDone] = useState<ReadonlyMap<string, Item["state"]>>(new Map());
  const stateOf = useCallback((item: Item, known = done) => known.get(item.specimen_id) ?? item.state, [done]);
  const isOpen = useCallback((item: Item, known = done) => stateOf(item, known) === "waiting" || (!dimensionsOnly && stateOf(item, known) === "measured"), [stateOf, dimensionsOnly, done]);
  // the specimen at hand is chosen once and stays, whatever the queue does meanwhile
  const [currentId, setCurrentId] = useState<string | null>(() => props.wanted ?? items.find((i) => isOpen(i))?.specimen_id ?? null);
  const chosen = items.find((i) => i.specimen_id === currentId) ?? null;
  // accepted elsewhere, or sent late by this browser: with nothing typed for it there is nothing to say about it
  const current = chosen && !isOpen(chosen) && !hasDraft(test.id, chosen.specimen_id) ? (items.find((i) => isOpen(i)) ?? null) : chosen;
  const [notice, setNotice] = useState<string | null>(null);
  const [stack, setStack] = useState<Accepted[]>([]);
  const busy = useRef(false);

  const nextAfter = (id: string, known: ReadonlyMap<string, Item["state"]>): string | null => {
    const at = items.findIndex((i) => i.specimen_id === id);
    const after = [...items.slice(at + 1), ...items.slice(0, at)];
    return after.find((i) => isOpen(i, known) && !i.held_by)?.specimen_id ?? null;
  };
  const go = (item: Item) => {
    if (isOpen(item)) {
      setNotice(null);
      setCurrentId(item.specimen_id);
    } else props.onTested(item.specimen_id);
  };
  const onAccepted = (accepted: Accepted) => {
    const known = new Map(done).set(accepted.specimenId, accepted.state);
    setDone(known);
    setStack((s) => [...s, accepted]);
    setCurrentId(nextAfter(accepted.specimenId, known));
  };

  const undo = async () => {
    const last = stack.at(-1);
    if (!last || busy.current) return;
    busy.current = true;
    try {
      if (!(await outbox.withdraw(last.runId))) await outbox.add({ kind: "retract", run_id: last.runId, code: last.code, added_at: Date.now() });
      setStack(stack.slice(0, -1));
      setDone(new Map(done).set(last.specimenId, "waiting"));
      // a recording belongs to the run that was taken back: it is dropped anew under another id
      localStorage.setItem(draftKey(test.id, last.specimenId), JSON.stringify({ ...last.entry, curve: null }));
      setCurrentId(last.specimenId);
      setNotice(`${last.code} was taken back; its entries stand here again${last.entry.curve ? ", drop its recording once more" : ""}`);
    } finally {
      busy.current = false;
    }
  };

  const scan = async (text: string, asking: boolean) => {
    if (asking) {
      setNotice("the scan was not used: a question is open, answer it first");
      return;
    }
    try {
      const code = unwrap<Schemas["CodeView"]>(await client.GET("/api/codes", { params: { query: { text } } }));
      if (code.kind === "rig") {
        const scanned = rigs.find((r) => r.rig_id === code.id);
        setNotice(scanned ? `now on ${scanned.name}` : `${code.code} is a rig that does not serve ${test.label.toLowerCase()}`);
        if (scanned) setRigId(scanned.id);
      } else if (code.kind === "spool") setNotice(`${code.code} is a spool`);
      else if (code.test_id !== test.id) {
        if (code.test_id) props.onOtherTest(code.test_id, code.id);
      } else if (code.id === currentId) setNotice(`${code.code} is the specimen at hand`);
      else {
        const item = items.find((i) => i.specimen_id === code.id);
        if (item) go(item);
      }
    } catch (error) {
      setNotice(messageOf(error));
    }
  };

  const position = items.filter((i) => !["waiting", "measured"].includes(stateOf(i))).length;
  // somebody else accepted it while it was open here: what was typed stays its draft, and is not moved to another one
  const overtaken = current !== null && !isOpen(current);
  return (
    <div className={css.page}>
      <h1 className="visually-hidden">Bench</h1>
      <div className={css.head}>
        <strong>
          {test.label}, {test.orientation}
        </strong>
        <span className="soft">{props.studyTitle}</span>
        <Select
          aria-label="Rig"
          size="xs"
          w={210}
          value={rig?.id ?? null}
          onChange={(id) => id && setRigId(id)}
          data={rigs.map((r) => ({ value: r.id, label: `${r.name} (${r.channels[0]?.unit ?? ""})` }))}
          allowDeselect={false}
        />
        {rig && <Calibrated rig={rig} />}
        <span style={{ flex: 1 }} />
        {hasDimensions && (
          <SegmentedControl
            size="xs"
            value={round}
            onChange={(v) => {
              setRound(v);
              setCurrentId((id) => id ?? items.find((i) => stateOf(i) === "waiting")?.specimen_id ?? null);
            }}
            data={[
              { value: "test", label: "Test" },
              { value: "dimensions", label: "Dimensions round" },
            ]}
            aria-label="Round"
          />
        )}
        <Switch size="sm" label="blind" checked={blind} onChange={(e) => props.onBlind(e.currentTarget.checked)} />
        {!person && <span style={{ color: "var(--caution)" }}>unsigned</span>}
      </div>
      <div className={css.queue}>
        <div className={css.chips}>
          <Chips items={items} current={current} stateOf={stateOf} blind={blind} onGo={go} />
        </div>
        <span className="soft" style={{ marginLeft: "auto", whiteSpace: "nowrap", fontSize: "0.88rem" }}>
          {position} of {items.length} done · random order
        </span>
      </div>
      {notice && (
        <div className={css.notice} role="status">
          <span style={{ flex: 1 }}>{notice}</span>
          <button type="button" className={css.link} onClick={() => setNotice(null)}>
            close
          </button>
        </div>
      )}
      {!current || !rig ? (
        <Finished testId={test.id} dimensionsOnly={dimensionsOnly} />
      ) : overtaken ? (
        <Overtaken item={current} onOpen={() => props.onTested(current.specimen_id)} onNext={() => setCurrentId(nextAfter(current.specimen_id, done))} />
      ) : (
        <AtSpecimen
          key={`${current.specimen_id}-${String(stack.length)}`}
          item={current}
          test={test}
          method={method}
          rig={rig}
          blind={blind}
          dimensionsOnly={dimensionsOnly}
          lastCode={stack.at(-1)?.code ?? null}
          reasons={props.reasons}
          onAccepted={onAccepted}
          onNext={() => setCurrentId(nextAfter(current.specimen_id, done))}
          onUndo={() => void undo()}
          onScan={(text, asking) => void scan(text, asking)}
          onNotice={setNotice}
        />
      )}
      <QueueRefresh testId={test.id} blind={blind} onFresh={() => setDone((d) => settledOnly(d, items))} />
    </div>
  );
}

function Calibrated({ rig }: { rig: Schemas["RigView"] }) {
  if (!rig.calibrated_at) return <span className="soft">never calibrated</span>;
  const overdue = rig.due_at !== null && new Date(rig.due_at).getTime() < Date.now();
  return <span className={overdue ? undefined : "soft"} style={overdue ? { color: "var(--caution)" } : undefined}>{overdue ? "calibration is due" : `calibrated ${ago(rig.calibrated_at)}`}</span>;
}

/** Whether something was typed for a specimen and not accepted. */
function hasDraft(testId: string, specimenId: string): boolean {
  const kept = localStorage.getItem(draftKey(testId, specimenId));
  return kept !== null && started(JSON.parse(kept) as Accepted["entry"]);
}

/** Another station, or another tab, has accepted this specimen meanwhile. */
function Overtaken({ item, onOpen, onNext }: { item: Item; onOpen: () => void; onNext: () => void }) {
  return (
    <div style={{ textAlign: "center", padding: "3rem 1rem" }} role="alert">
      <h2>{item.code} was tested meanwhile</h2>
      <p>Somebody accepted it at another station or in another tab. What you typed for it was not sent and stays its draft here.</p>
      <p style={{ display: "flex", gap: "1rem", justifyContent: "center" }}>
        <button type="button" className={css.faultButton} onClick={onOpen}>
          Open {item.code}
        </button>
        <button type="button" className={css.accept} onClick={onNext} autoFocus>
          Next specimen
        </button>
      </p>
    </div>
  );
}
