import { useDebouncedValue, useLocalStorage } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import { client, messageOf, Problem, type Schemas, sendCurve, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { outbox } from "../../api/outbox";
import { station } from "../../api/person";
import { previewOptions } from "../../api/queries/bench";
import { BELOW, PARTS } from "../../capture/registry";
import captureCss from "../../capture/capture.module.css";
import { Drawing } from "../../figures/drawings/Drawing";
import { geometryOf, H, W } from "../../figures/drawings/geometry";
import { type Asked, Questions } from "../../ui/Questions";
import { ArmSwatch } from "../../ui/Swatch";
import css from "./bench.module.css";
import { BottomBar } from "./BottomBar";
import { complete, emptyEntry, type Entry, nextOf, readingsOf, slotsOf, type Stamp, started, wanted } from "./entry";
import { FaultDialog } from "./FaultDialog";
import { FileQuestions } from "./FileQuestions";
import { Outcomes, outcomeAt } from "./Outcomes";
import { useBenchKeys } from "./useBenchKeys";

type Item = Schemas["QueueItem"];

/** What a station keeps of an accepted entry, to take it back. */
export interface Accepted {
  specimenId: string;
  runId: string;
  code: string;
  entry: Entry;
  state: Item["state"];
}

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

/** A ladder of weights stands under the drawing: it then gives up its margins. */
const CROP = 0.74;

export const draftKey = (testId: string, specimenId: string): string => `assayer.draft.${testId}.${specimenId}`;

/** One specimen at the bench: its drawing with the places to type, what comes out, and the decision. Drafts stay with it. */
export function AtSpecimen(props: AtSpecimenProps) {
  const { item, test, method, rig, blind, dimensionsOnly, onNotice } = props;
  const queries = useQueryClient();
  const [entry, setEntry, dropDraft] = useLocalStorage<Entry>({ key: draftKey(test.id, item.specimen_id), defaultValue: emptyEntry(), getInitialValueInEffect: false });
  const [file, setFile] = useState<File | null>(null);
  const [faulting, setFaulting] = useState(false);
  const [unclear, setUnclear] = useState<{ problem: Partial<Schemas["Problem"]>; file: File } | null>(null);
  const [asked, setAsked] = useState<readonly Asked[]>([]);
  const busy = useRef(false);
  const root = useRef<HTMLDivElement>(null);
  const remembered = useRef(entry);

  const measured = item.state === "measured" && item.run_id !== null;
  const steps = useMemo(() => method.steps.filter((s) => !dimensionsOnly || s.kind === "section"), [method.steps, dimensionsOnly]);
  const before = useMemo(() => (measured ? earlier(item) : {}), [measured, item]);
  const locked = useMemo(() => new Set(Object.keys(before)), [before]);
  const whole = useMemo<Entry>(() => ({ ...entry, values: { ...entry.values, ...before } }), [entry, before]);
  const slots = useMemo(() => wanted(slotsOf(steps, test.protocol), entry), [steps, test.protocol, entry]);
  const geometry = useMemo(() => geometryOf(test.shape), [test.shape]);
  const change = useCallback((patch: Partial<Entry>) => setEntry((e) => ({ ...e, ...patch })), [setEntry]);

  const body = useMemo<Schemas["PreviewRequest"]>(
    () => ({
      test_id: test.id,
      rig_version_id: rig.id,
      specimen_id: item.specimen_id,
      run_id: measured ? item.run_id : null,
      readings: readingsOf(entry, "").map((r) => ({ field: r.field, position: r.position, raw: r.raw, happened_at: entry.stamps[r.key]?.at ?? null, ambient_c: r.ambient_c ?? null, load: r.load ?? null, after: null })),
      curve_id: entry.curve?.onServer ? entry.curve.id : null,
      outcome: entry.outcome,
      blind,
      confirmed: entry.confirmed,
    }),
    [test.id, rig.id, item, measured, entry, blind],
  );
  const [settled] = useDebouncedValue(body, 90);
  const preview = useQuery(previewOptions(settled));
  const wrong = useMemo(() => new Map((preview.data?.errors ?? []).flatMap((e) => (e.field === null ? [] : [[`${e.field}-${e.row ?? 0}`, e.text] as const]))), [preview.data]);
  const readAs = useMemo(() => new Map((preview.data?.read_as ?? []).map((r) => [`${r.field}-${r.position}`, r.text] as const)), [preview.data]);
  const offline = preview.isError && preview.error instanceof Problem && preview.error.unreachable;

  const focusOn = useCallback((key: string) => {
    const input = root.current?.querySelector<HTMLInputElement>(`input[name="${key}"]`);
    input?.focus();
    input?.select();
  }, []);

  // hold it for this station, and put the cursor where the work goes on
  useEffect(() => {
    const next = nextOf(slots, whole, null, locked);
    if ("focus" in next) focusOn(next.focus);
    client.PUT("/api/specimens/{specimen_id}/lease", { params: { path: { specimen_id: item.specimen_id }, query: { station: station() } } }).then(
      ({ data }) => {
        if (data?.held_by) onNotice(`another station (${data.held_by}) is at this specimen`);
      },
      () => undefined,
    );
    // once for each specimen and round: following the entry would move the cursor while typing
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [item.specimen_id, dimensionsOnly, focusOn]);

  const onValue = (key: string, raw: string, stamp?: Stamp) => {
    onNotice(null);
    setAsked([]);
    setEntry((e) => {
      const stamps = { ...e.stamps };
      if (!raw.trim()) delete stamps[key];
      else if (stamp && !stamps[key]) stamps[key] = stamp;
      return { ...e, values: { ...e.values, [key]: raw }, stamps };
    });
  };

  const keep = async (unchecked: boolean, validity?: Schemas["NewRun"]["validity"], reason?: string) => {
    const done = !dimensionsOnly || validity === "left_out";
    const now = new Date().toISOString();
    const runId = measured && item.run_id ? item.run_id : newId();
    const leave = new Set([...locked, ...(validity === "left_out" ? wrong.keys() : []), ...(entry.curve ? ["peak_force-0"] : [])]);
    const run: Schemas["NewRun"] = {
      id: runId,
      subject_kind: "specimen",
      subject_id: item.specimen_id,
      test_id: test.id,
      rig_version_id: rig.id,
      happened_at: now,
      readings: sent(readingsOf(entry, now, leave)),
      complete: done,
      curve_id: done ? (entry.curve?.id ?? null) : null,
      outcome: done ? entry.outcome : null,
      outcome_place: done ? entry.place : null,
      validity: validity ?? null,
      validity_reason: reason ?? null,
      place: null,
      confirmed: entry.confirmed,
      unchecked,
    };
    const travelling = entry.curve && !entry.curve.onServer && file ? { id: entry.curve.id, rig_version_id: rig.id, name: entry.curve.name, file } : undefined;
    // safe in this browser first; the server hears of it by itself
    await outbox.add({ kind: "run", run_id: runId, code: item.code, run, ...(travelling ? { curve: travelling } : {}), added_at: Date.now() });
    const bound = test.outcomes.find((o) => o.name === entry.outcome)?.bound;
    const state: Item["state"] = !done ? "measured" : (validity ?? (bound && bound !== "exact" ? bound : "counts"));
    dropDraft();
    props.onAccepted({ specimenId: item.specimen_id, runId, code: item.code, entry, state });
  };

  /** Enter or the button: on with the entry; at its end check with the server, ask, and keep. */
  const goOn = async (active: string | null) => {
    if (busy.current) return;
    const next = nextOf(slots, whole, active, locked);
    if ("focus" in next) return focusOn(next.focus);
    if ("press" in next) return root.current?.querySelector<HTMLButtonElement>(`button[name="${next.press}"]`)?.focus();
    await accept();
  };

  const accept = async () => {
    if (busy.current) return;
    busy.current = true;
    try {
      const checked = unwrap<Schemas["Preview"]>(await client.POST("/api/previews", { body }));
      queries.setQueryData(previewOptions(body).queryKey, checked);
      const mistakes = dimensionsOnly ? checked.errors.filter((e) => slots.some((s) => s.field === e.field)) : checked.errors;
      const first = mistakes[0];
      if (first) {
        onNotice(first.text);
        focusOn(`${first.field ?? ""}-${first.row ?? 0}`);
      } else if (!dimensionsOnly && !checked.reduction && !(entry.curve && !entry.curve.onServer)) {
        onNotice(entry.curve ? "the recording and the dimensions do not make a result yet" : "something is missing: fill what is needed");
      } else if (checked.questions.length) {
        setAsked(checked.questions);
      } else {
        onNotice(null);
        await keep(false);
      }
    } catch (error) {
      // without the server the entry is kept all the same; what it would have asked stays with it as a remark
      if (error instanceof Problem && error.unreachable) await keep(true);
      else onNotice(messageOf(error));
    } finally {
      busy.current = false;
    }
  };

  const answer = (question: Asked, likely: string | null) => {
    setAsked((rest) => rest.filter((q) => q.key !== question.key));
    if (likely === null) change({ confirmed: [...entry.confirmed, question.key] });
    else setEntry((e) => ({ ...e, values: { ...e.values, [`${question.field}-${question.row ?? 0}`]: likely } }));
    focusOn(`${question.field}-${question.row ?? 0}`);
  };

  useBenchKeys({
    onBurstMayStart: () => {
      remembered.current = entry;
    },
    onScan: (text) => {
      // the burst has spoilt the field it fell into: what stood there before is what counts
      setEntry(remembered.current);
      props.onScan(text, faulting || unclear !== null);
    },
    onGauge: (text) => {
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
    onEnter: (active) => void goOn(active),
    letters: { f: () => setFaulting(true), u: props.onUndo, n: props.onNext },
    dialogOpen: faulting || unclear !== null || asked.length > 0,
  });

  const takeFile = async (chosen: File) => {
    const id = newId();
    setFile(chosen);
    try {
      const curve = await sendCurve(id, rig.id, chosen, chosen.name);
      change({ curve: { id: curve.id, name: chosen.name, onServer: true } });
      onNotice(curve.warnings.length ? curve.warnings.join("; ") : null);
      setUnclear(null);
    } catch (error) {
      if (error instanceof Problem && error.unreachable) {
        change({ curve: { id, name: chosen.name, onServer: false } });
        onNotice("the server cannot be reached: the recording is kept here and read when it answers");
      } else if (error instanceof Problem && error.body.file_questions?.length) setUnclear({ problem: error.body, file: chosen });
      else onNotice(messageOf(error));
    }
  };
  const drop = useFileDrop((chosen) => void takeFile(chosen), steps.some((s) => s.kind === "recording"));

  const shared = { test, rig, entry: whole, geometry, onValue, onStamp: (key: string, stamp: Stamp) => setEntry((e) => ({ ...e, stamps: { ...e.stamps, [key]: stamp } })), wrong, readAs, locked, dimensionsOnly };
  const recording = { name: entry.curve?.name ?? null, take: (chosen: File) => void takeFile(chosen), remove: () => change({ curve: null }) };
  const parts = steps.map((step) => ({ step, Part: PARTS[step.kind] }));
  const below = parts.filter(({ step }) => BELOW.includes(step.kind));
  const touchable = test.outcomes.some((o) => o.place !== null) && !dimensionsOnly;
  return (
    <div ref={root} className={css.drop} {...drop}>
      {!blind && item.arm && (
        <div style={{ display: "flex", gap: 8, alignItems: "center", justifyContent: "center", fontSize: "0.9rem", marginBottom: 6 }}>
          <ArmSwatch arm={item.arm} size={24} /> {item.arm.material.maker} {item.arm.material.product}, {item.arm.material.colour}
        </div>
      )}
      <div className={captureCss.drawing} style={{ aspectRatio: `${W} / ${below.length ? H * CROP : H}` }}>
        <Drawing
          shape={test.shape}
          orientation={test.orientation}
          place={entry.place}
          arrows={steps.some((s) => s.kind === "section")}
          supported={below.length > 0}
          crop={below.length ? CROP : 1}
          marks={steps.find((s) => s.kind === "plain")?.fields[0]?.usual ?? 0}
          className={captureCss.shape}
          onTouch={touchable ? (place) => change({ place, outcome: outcomeAt(test.outcomes, place) }) : undefined}
        />
        <div className={captureCss.tag} style={{ left: `${(100 * geometry.tag.left) / W}%`, width: `${(100 * geometry.tag.width) / W}%` }}>
          <div className={captureCss.code}>{item.code}</div>
          <div className="soft">
            {test.label.toLowerCase()}, {test.orientation}
          </div>
          {touchable && !entry.outcome && <div className="soft">where did it break? touch the drawing</div>}
          {entry.outcome && <div style={{ color: "var(--worse)" }}>{test.outcomes.find((o) => o.name === entry.outcome)?.label}</div>}
        </div>
        {parts.map(({ step, Part }) => Part && !BELOW.includes(step.kind) && <Part key={step.name} step={step} {...shared} recording={recording} />)}
      </div>
      {below.map(({ step, Part }) => Part && <Part key={step.name} step={step} {...shared} recording={recording} />)}
      {!dimensionsOnly && <Outcomes outcomes={test.outcomes} chosen={entry.outcome} onChoose={(outcome, place) => change({ outcome, place: place ?? entry.place })} />}
      <div className={css.asked}>
        <Questions
          questions={asked}
          keys
          onLikely={(q, likely) => answer(q, likely)}
          onConfirm={(q) => answer(q, null)}
        />
      </div>
      <BottomBar
        preview={preview.data ?? null}
        offline={offline}
        wrong={wrong}
        test={test}
        curveId={entry.curve?.onServer ? entry.curve.id : null}
        lastCode={props.lastCode}
        ready={complete(slots, whole) && started(entry)}
        dimensionsOnly={dimensionsOnly}
        onFault={() => setFaulting(true)}
        onAccept={() => void (complete(slots, whole) ? accept() : goOn(null))}
      />
      {faulting && (
        <FaultDialog
          code={item.code}
          reasons={props.reasons}
          onClose={() => setFaulting(false)}
          onFault={(validity, reason) => {
            setFaulting(false);
            void keep(false, validity, reason);
          }}
        />
      )}
      {unclear && <FileQuestions problem={unclear.problem} rigVersionId={rig.id} onClose={() => setUnclear(null)} onAnswered={() => void takeFile(unclear.file)} />}
    </div>
  );
}

/** Readings with ids of their own, without the places they were typed in. */
function sent(readings: ReturnType<typeof readingsOf>): Schemas["NewReading"][] {
  return readings.map((r) => ({ id: newId(), field: r.field, position: r.position, raw: r.raw, happened_at: r.happened_at ?? null, ambient_c: r.ambient_c ?? null, load: r.load ?? null, after: r.after ?? null }));
}

/** What an earlier round measured of it, by place. */
function earlier(item: Item): Record<string, string> {
  return Object.fromEntries(Object.entries(item.fields).flatMap(([field, raws]) => raws.map((raw, i) => [`${field}-${i}`, raw] as const)));
}

/** A file dropped anywhere on the specimen. */
function useFileDrop(onFile: (file: File) => void, enabled: boolean) {
  const [over, setOver] = useState(false);
  if (!enabled) return {};
  return {
    "data-over": over || undefined,
    onDragOver: (e: React.DragEvent) => {
      e.preventDefault();
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: (e: React.DragEvent) => {
      e.preventDefault();
      setOver(false);
      const file = e.dataTransfer.files[0];
      if (file) onFile(file);
    },
  };
}
