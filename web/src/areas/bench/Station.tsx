import { SegmentedControl, Select, Switch } from "@mantine/core";
import { useLocalStorage } from "@mantine/hooks";
import { Link } from "@tanstack/react-router";
import { useEffect, useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { usePerson } from "../../api/person";
import { announce } from "../../ui/announce";
import { inText, ago } from "../../ui/format";
import { AtSpecimen } from "./AtSpecimen";
import css from "./bench.module.css";
import { Chips, Finished, QueueRefresh } from "./StationParts";
import { useQueue } from "./useQueue";

type Item = Schemas["QueueItem"];
type Round = "test" | "dimensions";

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
  const [rigId, setRigId] = useLocalStorage<string | null>({ key: `assayer.rig.${test.method}`, defaultValue: null, getInitialValueInEffect: false });
  const rig = rigs.find((r) => r.id === rigId) ?? rigs.find((r) => r.calibrated_at) ?? rigs[0];
  const hasDimensions = method.steps.some((s) => s.kind === "section") && method.steps.some((s) => s.kind === "peak");
  const [round, setRound] = useState<Round>("test");
  const dimensionsOnly = round === "dimensions" && hasDimensions;
  const [notice, setNotice] = useState<string | null>(null);
  const queue = useQueue({ testId: test.id, items, dimensionsOnly, wanted: props.wanted, onNotice: setNotice });
  const { current } = queue;
  const { lastCode } = queue;
  useEffect(() => {
    const before = lastCode ? `${lastCode} accepted. ` : "";
    announce(current ? `${before}Now ${current.code}, ${String(queue.tested)} of ${String(queue.total)} done.` : `${before}Nothing is left in this queue.`);
    // said when another one comes to hand, not whenever the queue is read anew
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [current?.code]);
  const go = (item: Item) => {
    if (queue.isOpen(item)) {
      setNotice(null);
      queue.choose(item.specimen_id);
    } else props.onTested(item.specimen_id);
  };
  const scan = useScan(props, queue.currentId, go, setRigId, setNotice);
  // somebody else accepted it while it was open here: what was typed stays its draft, and is not moved to another one
  const overtaken = current !== null && !queue.isOpen(current);
  return (
    <div className={css.page}>
      <h1 className="visually-hidden">Bench: {inText(test.label)}, {test.orientation}</h1>
      <StationHead
        {...props}
        rig={rig}
        onRig={setRigId}
        round={hasDimensions ? round : null}
        onRound={(r) => {
          setRound(r);
          queue.begin();
        }}
      />
      <div className={css.queue}>
        <div className={css.chips}>
          <Chips items={items} current={current} stateOf={queue.stateOf} blind={blind} onGo={go} />
        </div>
        <span className="soft" style={{ marginLeft: "auto", whiteSpace: "nowrap", fontSize: "0.88rem" }}>
          {queue.tested} of {queue.total} done
          {queue.leftOut > 0 && ` · ${String(queue.leftOut)} left out`} · random order
        </span>
      </div>
      {notice && <Notice text={notice} onClose={() => setNotice(null)} />}
      {!current || !rig ? (
        <Finished testId={test.id} dimensionsOnly={dimensionsOnly} />
      ) : overtaken ? (
        <Overtaken item={current} onOpen={() => props.onTested(current.specimen_id)} onNext={queue.next} />
      ) : (
        <AtSpecimen
          key={`${current.specimen_id}-${String(queue.depth)}`}
          {...{ item: current, test, method, rig, blind, dimensionsOnly, lastCode: queue.lastCode, reasons: props.reasons }}
          onAccepted={queue.accepted}
          onNext={queue.next}
          onUndo={() => void queue.undo()}
          onScan={(text, asking) => void scan(text, asking)}
          onNotice={setNotice}
        />
      )}
      <QueueRefresh testId={test.id} blind={blind} onFresh={queue.refreshed} />
    </div>
  );
}

/** A code that was scanned: a specimen here or of another test, a rig, a spool. */
function useScan({ test, rigs, items, onOtherTest }: StationProps, currentId: string | null, go: (item: Item) => void, onRig: (id: string) => void, say: (text: string) => void) {
  return async (text: string, asking: boolean) => {
    if (asking) return say("the scan was not used: a question is open, answer it first");
    try {
      const code = unwrap<Schemas["CodeView"]>(await client.GET("/api/codes", { params: { query: { text } } }));
      if (code.kind === "rig") {
        const scanned = rigs.find((r) => r.rig_id === code.id);
        say(scanned ? `now on ${scanned.name}` : `${code.code} is a rig that does not serve ${inText(test.label)}`);
        if (scanned) onRig(scanned.id);
      } else if (code.kind === "spool") say(`${code.code} is a spool`);
      else if (code.test_id !== test.id) {
        if (code.test_id) onOtherTest(code.test_id, code.id);
      } else if (code.id === currentId) say(`${code.code} is the specimen at hand`);
      else {
        const item = items.find((i) => i.specimen_id === code.id);
        if (item) go(item);
      }
    } catch (error) {
      say(messageOf(error));
    }
  };
}

interface HeadProps extends StationProps {
  rig: Schemas["RigView"] | undefined;
  onRig: (id: string) => void;
  /** null where the dimensions are not a round of their own. */
  round: Round | null;
  onRound: (round: Round) => void;
}

function StationHead({ test, method, studyTitle, rigs, rig, onRig, round, onRound, blind, onBlind }: HeadProps) {
  const person = usePerson();
  const rounds = [
    { value: "test" as const, label: "Test" },
    { value: "dimensions" as const, label: "Dimensions round" },
  ];
  return (
    <div className={css.head}>
      <strong>
        {test.label}, {test.orientation}
      </strong>
      <span className="soft">{studyTitle}</span>
      <Select
        aria-label="Rig"
        size="xs"
        w={210}
        value={rig?.id ?? null}
        onChange={(id) => id && onRig(id)}
        data={rigs.map((r) => ({ value: r.id, label: `${r.name} (${r.channels[0]?.unit ?? ""})` }))}
        allowDeselect={false}
      />
      {rig && <Calibrated rig={rig} />}
      <span style={{ flex: 1 }} />
      {method.steps.some((m) => m.kind === "ramp" && m.fields.slice(0, -2).some((f) => f.usual > 0)) && (
        <Link to="/bench/oven/$testId" params={{ testId: test.id }} style={{ whiteSpace: "nowrap" }}>
          several at once
        </Link>
      )}
      {method.steps.some((m) => m.channels.length > 0) && (
        <Link to="/bench/files/$testId" params={{ testId: test.id }} style={{ whiteSpace: "nowrap" }}>
          many files
        </Link>
      )}
      {round && <SegmentedControl size="xs" value={round} onChange={onRound} data={rounds} aria-label="Round" />}
      <Switch size="sm" label="blind" checked={blind} onChange={(e) => onBlind(e.currentTarget.checked)} />
      {!person && <span style={{ color: "var(--caution)" }}>unsigned</span>}
    </div>
  );
}

function Notice({ text, onClose }: { text: string; onClose: () => void }) {
  return (
    <div className={css.notice} role="status">
      <span style={{ flex: 1 }}>{text}</span>
      <button type="button" className={css.link} onClick={onClose}>
        close
      </button>
    </div>
  );
}

function Calibrated({ rig }: { rig: Schemas["RigView"] }) {
  if (!rig.calibrated_at) return <span className="soft">never calibrated</span>;
  const overdue = rig.due_at !== null && new Date(rig.due_at).getTime() < Date.now();
  return <span className={overdue ? undefined : "soft"} style={overdue ? { color: "var(--caution)" } : undefined}>{overdue ? "calibration is due" : `calibrated ${ago(rig.calibrated_at)}`}</span>;
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
        <button type="button" data-thumb className={css.accept} onClick={onNext} autoFocus>
          Next specimen
        </button>
      </p>
    </div>
  );
}
