import { useCallback, useEffect, useRef, useState } from "react";

import { client, type Schemas } from "../../api/client";
import { station } from "../../api/person";
import { geometryOf } from "../../figures/drawings/geometry";
import { Questions } from "../../ui/Questions";
import { ArmSwatch } from "../../ui/Swatch";
import css from "./bench.module.css";
import { BottomBar } from "./BottomBar";
import { complete, type Entry, firstEmpty, nextOf, nextWords, type Stamp, started } from "./entry";
import { FaultDialog } from "./FaultDialog";
import { FileQuestions } from "./FileQuestions";
import { outcomeAt, Outcomes } from "./Outcomes";
import { SpecimenDrawing } from "./SpecimenDrawing";
import { type Accepted, useAccepting } from "./useAccepting";
import { useBenchKeys } from "./useBenchKeys";
import { type AtEntry, useEntry } from "./useEntry";
import { useFileDrop, useRecording } from "./useRecording";

type Item = Schemas["QueueItem"];

interface AtSpecimenProps {
  item: Item;
  test: Schemas["TestView"];
  method: Schemas["MethodView"];
  rig: Schemas["RigView"];
  blind: boolean;
  dimensionsOnly: boolean;
  lastCode: string | null;
  reasons: readonly string[];
  onAccepted: (accepted: Accepted) => void;
  onNext: () => void;
  onUndo: () => void;
  onScan: (text: string, busy: boolean) => void;
  onNotice: (text: string | null) => void;
}

/** One specimen at the bench: its drawing with the places to type, what comes out, and the decision. Drafts stay with it. */
export function AtSpecimen(props: AtSpecimenProps) {
  const { item, test, rig, blind, dimensionsOnly, onNotice } = props;
  const root = useRef<HTMLDivElement>(null);
  const [faulting, setFaulting] = useState(false);
  const at = useEntry(props);
  const { entry, whole, slots, steps, locked, wrong, doubts, readAs } = at;
  const recording = useRecording(rig.id, at, onNotice);
  const focusOn = useCallback((key: string) => {
    const input = root.current?.querySelector<HTMLInputElement>(`input[name="${key}"]`);
    input?.focus();
    input?.select();
  }, []);
  const accepting = useAccepting({ item, test, rigId: rig.id, dimensionsOnly, at, travelling: recording.travelling, focusOn, toAccept: () => root.current?.querySelector<HTMLButtonElement>("[data-accept]")?.focus(), onNotice, onAccepted: props.onAccepted });
  const { asked } = accepting;
  useLease(item, onNotice);
  useFirstFocus(at, focusOn, () => root.current?.querySelector<HTMLButtonElement>("[data-accept]")?.focus(), `${item.specimen_id}-${String(dimensionsOnly)}-${entry.curve?.id ?? ""}`);
  // unlike ends are not averaged: without it the result could not be placed
  const toChoose = !dimensionsOnly && test.outcomes.some((o) => typeof o.symbol === "string");
  const [active, setActive] = useState<string | null>(null);
  const follow = (target: EventTarget | null) => setActive(target instanceof HTMLInputElement && "entry" in target.dataset ? target.name : null);
  const next = nextOf(slots, whole, active, locked, toChoose);
  /** Enter or the button: on with the entry; at its end check with the server, ask, and keep. */
  const goOn = async (active: string | null) => {
    if (accepting.busy.current) return;
    const next = nextOf(slots, whole, active, locked, toChoose);
    if ("focus" in next) return focusOn(next.focus);
    if ("choose" in next) {
      onNotice("say how it ended");
      return root.current?.querySelector<HTMLButtonElement>("[data-outcome]")?.focus();
    }
    if ("press" in next) return root.current?.querySelector<HTMLButtonElement>(`button[name="${next.press}"]`)?.focus();
    await accepting.accept();
  };
  const bursts = useBursts(at, focusOn, (text) => props.onScan(text, faulting || recording.unclear !== null));
  useBenchKeys({ ...bursts, onEnter: (active) => void goOn(active), letters: { f: () => setFaulting(true), u: props.onUndo, n: props.onNext, ...(toChoose ? chooseBy(test.outcomes, root, (outcome) => at.change({ outcome, place: null })) : {}) }, dialogOpen: faulting || recording.unclear !== null || asked.length > 0 });
  const drop = useFileDrop(recording.take, steps.some((s) => s.kind === "recording"));
  const onValue = (key: string, raw: string, stamp?: Stamp) => {
    onNotice(null);
    accepting.forget();
    at.type(key, raw, stamp);
  };
  const onFault = (validity: "left_out" | "at_least", reason: string) => {
    setFaulting(false);
    void accepting.keep(false, validity, reason);
  };
  const shared = { test, rig, entry: whole, geometry: geometryOf(test.shape), onValue, onStamp: at.stamp, wrong, doubts, readAs, locked, dimensionsOnly, recording };
  return (
    <div ref={root} className={css.drop} {...drop} onFocus={(e) => follow(e.target)}>
      <div>
        {!blind && item.arm && <Material arm={item.arm} />}
        <SpecimenDrawing code={item.code} test={test} at={at} shared={shared} />
      </div>
      <div className={css.decision}>
        {!dimensionsOnly && <Outcomes outcomes={test.outcomes} chosen={entry.outcome} onChoose={(outcome) => at.change({ outcome, place: entry.place !== null && outcome === outcomeAt(test.outcomes, entry.place) ? entry.place : null })} />}
        <div className={css.asked}>
          <Questions questions={asked} keys onLikely={(q, likely) => accepting.answer(q, likely)} onConfirm={(q) => accepting.answer(q, null)} />
        </div>
        <BottomBar
          preview={at.preview}
          offline={at.offline}
          wrong={wrong}
          test={test}
          curveId={entry.curve?.onServer ? entry.curve.id : null}
          lastCode={props.lastCode}
          ready={complete(slots, whole) && started(entry) && (!toChoose || entry.outcome !== null)}
          next={nextWords(next, slots, active)}
          letters={toChoose}
          dimensionsOnly={dimensionsOnly}
          onFault={() => setFaulting(true)}
          onGo={() => void goOn(active)}
          onAccept={() => void accepting.accept()}
        />
      </div>
      {faulting && <FaultDialog code={item.code} reasons={props.reasons} onClose={() => setFaulting(false)} onFault={onFault} />}
      {recording.unclear && <FileQuestions problem={recording.unclear.problem} rigVersionId={rig.id} onClose={recording.forget} onAnswered={() => recording.unclear && recording.take(recording.unclear.file)} />}
    </div>
  );
}

/** Outcomes by their letter; the cursor goes to the one that was chosen, and Enter goes on from there. */
function chooseBy(outcomes: readonly Schemas["OutcomeView"][], root: React.RefObject<HTMLDivElement | null>, choose: (name: string) => void): Record<string, () => void> {
  const own = outcomes.filter((o) => typeof o.symbol === "string");
  return Object.fromEntries(
    own.map((o) => [
      (o.symbol ?? "").toLowerCase(),
      () => {
        choose(o.name);
        root.current?.querySelector<HTMLButtonElement>(`[data-outcome="${o.name}"]`)?.focus();
      },
    ]),
  );
}

function Material({ arm }: { arm: NonNullable<Item["arm"]> }) {
  return (
    <div style={{ display: "flex", gap: 8, alignItems: "center", justifyContent: "center", fontSize: "0.9rem", marginBottom: 6 }}>
      <ArmSwatch arm={arm} size={24} /> {arm.material.maker} {arm.material.product}, {arm.material.colour}
    </div>
  );
}

/** Held for this station; another one that is at it is told of. */
function useLease(item: Item, onNotice: (text: string | null) => void) {
  useEffect(() => {
    client.PUT("/api/specimens/{specimen_id}/lease", { params: { path: { specimen_id: item.specimen_id }, query: { station: station() } } }).then(
      ({ data }) => {
        if (data?.held_by) onNotice(`another station (${data.held_by}) is at this specimen`);
      },
      () => undefined,
    );
  }, [item.specimen_id, onNotice]);
}

/** The cursor waits at the first empty field, also after a reload, and after a file came or went. */
function useFirstFocus({ slots, whole, locked }: AtEntry, focusOn: (key: string) => void, toAccept: () => void, once: string) {
  const first = useRef(true);
  useEffect(() => {
    const empty = firstEmpty(slots, whole, locked);
    if (empty !== null) focusOn(empty);
    // with a file everything may be there; an entry that comes back whole is looked at first
    else if (!first.current) toAccept();
    first.current = false;
    // once for each specimen, round and file: following the entry would move the cursor while typing
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [once, focusOn]);
}

/** Keys that come too fast for a hand: a scanner's code leaves the entry as it stood, a gauge's reading goes into it. */
function useBursts({ entry, setEntry, slots, locked }: AtEntry, focusOn: (key: string) => void, onScan: (text: string) => void) {
  const remembered = useRef<Entry>(entry);
  return {
    onBurstMayStart: () => {
      remembered.current = entry;
    },
    onScan: (text: string) => {
      // the burst has spoilt the field it fell into: what stood there before is what counts
      setEntry(remembered.current);
      onScan(text);
    },
    onGauge: (text: string) => {
      const active = document.activeElement;
      const held = remembered.current;
      const next = nextOf(slots, held, null, locked);
      const key = active instanceof HTMLInputElement && "entry" in active.dataset ? active.name : "focus" in next ? next.focus : null;
      if (!key) return;
      const filled = { ...held, values: { ...held.values, [key]: text } };
      setEntry(filled);
      const after = nextOf(slots, filled, key, locked);
      focusOn("focus" in after ? after.focus : key);
    },
  };
}
