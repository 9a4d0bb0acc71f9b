import { SegmentedControl, Select, Switch } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import { client, messageOf, Problem, type Schemas, sendCurve, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { outbox } from "../../api/outbox";
import { person, station } from "../../api/person";
import { ago } from "../../ui/format";
import { ArmSwatch } from "../../ui/Swatch";
import css from "./bench.module.css";
import { BottomBar } from "./BottomBar";
import { FaultDialog } from "./FaultDialog";
import { FileQuestions } from "./FileQuestions";
import { type Fields, type Fracture, SpecimenDrawing } from "./SpecimenDrawing";
import { Chips, defaultPlace, FileButton, Finished, pad, QueueRefresh, settledOnly } from "./StationParts";
import { useBenchKeys } from "./useBenchKeys";
import { useStored } from "./useStored";

type Item = Schemas["QueueItem"];

interface StationProps {
  test: Schemas["TestView"];
  studyTitle: string;
  items: Item[];
  rigs: Schemas["RigView"][];
  blind: boolean;
  onBlind: (blind: boolean) => void;
  /** Specimen to begin with. */
  wanted: string | undefined;
  onOtherTest: (testId: string, specimenId: string) => void;
}

interface DroppedCurve {
  id: string;
  name: string;
  file: File;
  /** False while the server could not be reached: the file then travels with the entry. */
  onServer: boolean;
}

interface Entry {
  fields: Fields;
  fracture: Fracture | null;
  curve: DroppedCurve | null;
}

interface Accepted {
  specimenId: string;
  runId: string;
  code: string;
  entry: Entry;
}

const ORDER = ["width-0", "width-1", "width-2", "thickness-0", "thickness-1", "thickness-2", "peak_force-0"];
const emptyFields = (): Fields => ({ width: ["", "", ""], thickness: ["", "", ""], peak_force: [""] });

export function Station({ test, studyTitle, items, rigs, blind, onBlind, wanted, onOtherTest }: StationProps) {
  const queries = useQueryClient();
  const [rigId, setRigId] = useStored<string | null>("assayer.rig", null);
  const rig = rigs.find((r) => r.id === rigId) ?? rigs.find((r) => r.calibrated_at) ?? rigs[0];
  const [round, setRound] = useState<"pull" | "dimensions">("pull");
  /** What was accepted here, ahead of what the server's queue says. */
  const [done, setDone] = useState<ReadonlyMap<string, Item["state"]>>(new Map());
  const stateOf = useCallback((item: Item) => done.get(item.specimen_id) ?? item.state, [done]);
  const open = useCallback(
    (item: Item) => stateOf(item) === "waiting" || (round === "pull" && stateOf(item) === "measured"),
    [stateOf, round],
  );
  const [currentId, setCurrentId] = useState<string | null>(wanted ?? null);
  const current = items.find((i) => i.specimen_id === currentId) ?? items.find(open) ?? null;
  const [entry, setEntry] = useState<Entry>({ fields: emptyFields(), fracture: null, curve: null });
  const [notice, setNotice] = useState<string | null>(null);
  const [faulting, setFaulting] = useState(false);
  const [asking, setAsking] = useState<{ problem: Partial<Schemas["Problem"]>; file: File } | null>(null);
  const [stack, setStack] = useState<Accepted[]>([]);
  const [over, setOver] = useState(false);
  const busy = useRef(false);
  const remembered = useRef<Fields>(entry.fields);
  const root = useRef<HTMLDivElement>(null);

  const measured = current !== null && stateOf(current) === "measured" && current.run_id !== null;
  const fields = useMemo<Fields>(() => {
    if (!measured || !current) return entry.fields;
    return { ...entry.fields, width: pad(current.fields["width"]), thickness: pad(current.fields["thickness"]) };
  }, [entry.fields, measured, current]);

  const trialBody = useMemo<Schemas["PreviewRequest"] | null>(
    () =>
      current && rig
        ? {
            test_id: test.id,
            rig_version_id: rig.id,
            specimen_id: current.specimen_id,
            readings: ORDER.map((key) => key.split("-") as [string, string]).map(([field, i]) => ({ field, raw: fields[field]?.[Number(i)] ?? "" })),
            curve_id: entry.curve?.onServer ? entry.curve.id : null,
            blind,
          }
        : null,
    [current, rig, test.id, fields, entry.curve, blind],
  );
  const [settled] = useDebouncedValue(trialBody, 90);
  const trial = useQuery({
    queryKey: ["trial", settled],
    queryFn: async ({ signal }) => (settled ? unwrap<Schemas["Preview"]>(await client.POST("/api/previews", { body: settled, signal })) : null),
    enabled: settled !== null,
    placeholderData: (previous) => previous,
    gcTime: 1000,
  });
  const wrong = useMemo(() => {
    const found = new Map<string, string>();
    for (const e of trial.data?.errors ?? []) {
      const key = e.row !== null ? ORDER[e.row] : e.field ? `${e.field}-0` : undefined;
      if (key) found.set(key, e.text);
    }
    return found;
  }, [trial.data]);

  const focusOn = useCallback((key: string | undefined) => {
    const input = key ? root.current?.querySelector<HTMLInputElement>(`input[name="${key}"]`) : null;
    input?.focus();
    input?.select();
  }, []);
  const needed = useMemo(
    () => ORDER.filter((key) => !(measured && !key.startsWith("peak")) && !(key.startsWith("peak") && (round === "dimensions" || entry.curve !== null))),
    [measured, round, entry.curve],
  );
  const firstEmpty = useCallback(
    (from: Fields) => {
      return needed.find((key) => {
        const [name = "", i = "0"] = key.split("-");
        return !(from[name]?.[Number(i)] ?? "").trim();
      });
    },
    [needed],
  );

  // a new specimen: hold it for this station, and put the cursor where the work begins
  const specimenId = current?.specimen_id;
  useEffect(() => {
    if (!specimenId) return;
    focusOn(needed[0]);
    client.PUT("/api/specimens/{specimen_id}/lease", { params: { path: { specimen_id: specimenId }, query: { station: station() } } }).then(
      ({ data }) => {
        if (data?.held_by) setNotice(`another station (${data.held_by}) is at this specimen`);
      },
      () => undefined,
    );
    // needed belongs to the specimen; following it would move the cursor while typing
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [specimenId, focusOn]);

  const go = useCallback((id: string | null) => {
    setCurrentId(id);
    setEntry({ fields: emptyFields(), fracture: null, curve: null });
  }, []);
  const nextAfter = (id: string, nowDone: ReadonlyMap<string, Item["state"]>): string | null => {
    const at = items.findIndex((i) => i.specimen_id === id);
    const after = [...items.slice(at + 1), ...items.slice(0, at)];
    const isOpen = (i: Item) => {
      const s = nowDone.get(i.specimen_id) ?? i.state;
      return (s === "waiting" || (round === "pull" && s === "measured")) && !i.held_by;
    };
    return after.find(isOpen)?.specimen_id ?? null;
  };

  const keep = async (validity?: Schemas["NewRun"]["validity"], reason?: string) => {
    if (!current || !rig) return;
    const complete = round === "pull" || validity === "left_out";
    const now = new Date().toISOString();
    const runId = current.run_id && stateOf(current) === "measured" ? current.run_id : newId();
    const readings = needed
      .filter((key) => !(key.startsWith("peak") && entry.curve))
      .map((key) => key.split("-") as [string, string])
      .map(([field, i]) => ({ field, position: Number(i), raw: fields[field]?.[Number(i)] ?? "" }))
      .filter((r) => r.raw.trim() !== "" && !(validity === "left_out" && wrong.has(`${r.field}-${r.position}`)))
      .map((r) => ({ id: newId(), ...r, happened_at: now, ambient_c: null }));
    const run: Schemas["NewRun"] = {
      id: runId,
      specimen_id: current.specimen_id,
      test_id: test.id,
      rig_version_id: rig.id,
      happened_at: now,
      readings,
      complete,
      curve_id: complete ? (entry.curve?.id ?? null) : null,
      fracture: complete ? ((entry.fracture?.name ?? null) as Schemas["NewRun"]["fracture"]) : null,
      fracture_place: complete ? (entry.fracture?.place ?? null) : null,
      validity: validity ?? null,
      validity_reason: reason ?? null,
    };
    const travelling = entry.curve && !entry.curve.onServer ? { id: entry.curve.id, rig_version_id: rig.id, name: entry.curve.name, file: entry.curve.file } : undefined;
    // safe in this browser first; the server hears of it by itself
    await outbox.add({ kind: "run", run_id: runId, code: current.code, run, ...(travelling ? { curve: travelling } : {}), added_at: Date.now() });
    const bound = test.fractures.find((f) => f.name === entry.fracture?.name)?.bound;
    const state: Item["state"] = !complete ? "measured" : (validity ?? (bound && bound !== "exact" ? bound : "counts"));
    const nowDone = new Map(done).set(current.specimen_id, state);
    setDone(nowDone);
    setStack((s) => [...s, { specimenId: current.specimen_id, runId, code: current.code, entry }]);
    go(nextAfter(current.specimen_id, nowDone));
  };

  /** Enter or the button: to the first empty field, else check with the server and keep. */
  const accept = async () => {
    if (busy.current || !current || !trialBody) return;
    const empty = firstEmpty(fields);
    if (empty) {
      focusOn(empty);
      return;
    }
    busy.current = true;
    try {
      if (round === "pull" || wrong.size) {
        const checked = unwrap<Schemas["Preview"]>(await client.POST("/api/previews", { body: trialBody }));
        const real = round === "dimensions" ? checked.errors.filter((e) => e.field !== "peak_force") : checked.errors;
        if (real.length || (round === "pull" && !checked.reduction && !(entry.curve && !entry.curve.onServer))) {
          queries.setQueryData(["trial", trialBody], checked);
          setNotice(real[0]?.text ?? "something is missing: fill every field");
          focusOn(real[0]?.row != null ? ORDER[real[0].row] : undefined);
          return;
        }
      }
      setNotice(null);
      await keep();
    } catch (error) {
      // without the server the entry is kept all the same; it is checked when the server answers
      if (error instanceof Problem && error.unreachable) await keep();
      else setNotice(messageOf(error));
    } finally {
      busy.current = false;
    }
  };

  const undo = async () => {
    const last = stack.at(-1);
    if (!last || busy.current) return;
    busy.current = true;
    try {
      if (!(await outbox.withdraw(last.runId))) await outbox.add({ kind: "retract", run_id: last.runId, code: last.code, added_at: Date.now() });
      setStack(stack.slice(0, -1));
      const nowDone = new Map(done);
      nowDone.set(last.specimenId, "waiting");
      setDone(nowDone);
      setCurrentId(last.specimenId);
      // a recording belongs to the run that was taken back: it is dropped anew under another id
      setEntry({ ...last.entry, curve: null });
      setNotice(`${last.code} was taken back; its entries stand here again${last.entry.curve ? ", drop its recording once more" : ""}`);
    } finally {
      busy.current = false;
    }
  };

  const scan = async (text: string) => {
    // the burst has spoilt the field it fell into: what stood there before is what counts
    const before = remembered.current;
    setEntry((e) => ({ ...e, fields: before }));
    if (faulting || asking) {
      setNotice("the scan was not used: a question is open, answer it first");
      return;
    }
    try {
      const code = unwrap<Schemas["CodeView"]>(await client.GET("/api/codes", { params: { query: { text } } }));
      if (code.kind !== "specimen") {
        const scannedRig = rigs.find((r) => r.rig_id === code.id);
        if (scannedRig) {
          setRigId(scannedRig.id);
          setNotice(`now on ${scannedRig.name}`);
        }
        return;
      }
      if (code.test_id !== test.id) {
        if (code.test_id) onOtherTest(code.test_id, code.id);
        return;
      }
      const item = items.find((i) => i.specimen_id === code.id);
      if (item && item.specimen_id === current?.specimen_id) {
        setNotice(`${code.code} is the specimen at hand`);
      } else if (item && !open(item)) {
        setNotice(`${code.code} has been tested already`);
      } else if (item) {
        const started = Object.values(before).flat().some((v) => v.trim()) || entry.curve;
        if (started) setNotice(`the entries of ${current?.code ?? ""} were not accepted: accept them, or clear them with the chip of ${code.code}`);
        else {
          go(item.specimen_id);
          setNotice(null);
        }
      }
    } catch (error) {
      setNotice(messageOf(error));
    }
  };

  const gauge = (text: string) => {
    const active = document.activeElement;
    const key = active instanceof HTMLInputElement && ORDER.includes(active.name) ? active.name : firstEmpty(remembered.current);
    if (!key) return;
    const [name = "", i = "0"] = key.split("-");
    const next = { ...remembered.current, [name]: (remembered.current[name] ?? []).map((v, k) => (k === Number(i) ? text : v)) };
    setEntry((e) => ({ ...e, fields: next }));
    focusOn(firstEmpty(next) ?? key);
  };

  useBenchKeys({
    onBurstMayStart: () => {
      remembered.current = entry.fields;
    },
    onScan: (text) => void scan(text),
    onGauge: gauge,
    onEnter: () => void accept(),
    onFault: () => current && setFaulting(true),
    onUndo: () => void undo(),
    onNext: () => current && go(nextAfter(current.specimen_id, done)),
    dialogOpen: faulting || asking !== null,
  });

  const takeFile = async (file: File) => {
    if (!rig) return;
    const id = newId();
    try {
      const curve = await sendCurve(id, rig.id, file, file.name);
      setEntry((e) => ({ ...e, curve: { id: curve.id, name: file.name, file, onServer: true } }));
      setNotice(curve.warnings.length ? curve.warnings.join("; ") : null);
      setAsking(null);
    } catch (error) {
      if (error instanceof Problem && error.unreachable) {
        setEntry((e) => ({ ...e, curve: { id, name: file.name, file, onServer: false } }));
        setNotice("the server cannot be reached: the recording is kept here and read when it answers");
      } else if (error instanceof Problem && error.body.questions?.length) setAsking({ problem: error.body, file });
      else setNotice(messageOf(error));
    }
  };

  const position = items.filter((i) => !["waiting", "measured"].includes(stateOf(i))).length;
  const offline = trial.isError && trial.error instanceof Problem && trial.error.unreachable;
  return (
    <div
      ref={root}
      className={`${css.page} ${css.drop}`}
      data-over={over || undefined}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        const file = e.dataTransfer.files[0];
        if (file) void takeFile(file);
      }}
    >
      <h1 className="visually-hidden">Bench</h1>
      <div className={css.head}>
        <strong>
          {test.label}, {test.orientation}
        </strong>
        <span className="soft">{studyTitle}</span>
        <Select
          aria-label="Rig"
          size="xs"
          w={190}
          value={rig?.id ?? null}
          onChange={(id) => id && setRigId(id)}
          data={rigs.map((r) => ({ value: r.id, label: `${r.name} (${r.force_unit})` }))}
          allowDeselect={false}
        />
        <span className="soft">{rig?.calibrated_at ? `calibrated ${ago(rig.calibrated_at)}` : "never calibrated"}</span>
        <span style={{ flex: 1 }} />
        <SegmentedControl size="xs" value={round} onChange={(v) => setRound(v)} data={[{ value: "pull", label: "Pull" }, { value: "dimensions", label: "Dimensions round" }]} aria-label="Round" />
        <Switch size="sm" label="blind" checked={blind} onChange={(e) => onBlind(e.currentTarget.checked)} />
        {!person() && <span style={{ color: "var(--caution)" }}>unsigned</span>}
      </div>
      <div className={css.queue}>
        <div className={css.chips}>
          <Chips items={items} current={current} stateOf={stateOf} blind={blind} onGo={(id) => go(id)} />
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
      {!current ? (
        <Finished round={round} />
      ) : (
        <>
          {!blind && current.arm && (
            <div style={{ display: "flex", gap: 8, alignItems: "center", justifyContent: "center", fontSize: "0.9rem", marginBottom: 6 }}>
              <ArmSwatch arm={current.arm} size={24} /> {current.arm.material.maker} {current.arm.material.product}, {current.arm.material.colour}
            </div>
          )}
          <SpecimenDrawing
            code={current.code}
            test={test}
            fields={fields}
            onField={(name, i, raw) => {
              setNotice(null);
              setEntry((e) => ({ ...e, fields: { ...e.fields, [name]: (e.fields[name] ?? []).map((v, k) => (k === i ? raw : v)) } }));
            }}
            wrong={wrong}
            locked={measured}
            dimensionsOnly={round === "dimensions"}
            lengthUnit={rig?.length_unit ?? "mm"}
            forceUnit={rig?.force_unit ?? "N"}
            fracture={entry.fracture}
            onFracture={(fracture) => setEntry((e) => ({ ...e, fracture }))}
            curveName={entry.curve?.name ?? null}
            onRemoveCurve={() => setEntry((e) => ({ ...e, curve: null }))}
          >
            {round === "pull" && !entry.curve && <FileButton onFile={(f) => void takeFile(f)} />}
          </SpecimenDrawing>
          {round === "pull" && (
            <div className={css.breaks} role="group" aria-label="Where it broke">
              {test.fractures
                .filter((f) => test.orientation === "upright" || !f.name.includes("layer"))
                .filter((f) => test.orientation !== "upright" || f.name !== "gauge")
                .map((f) => (
                  <button
                    key={f.name}
                    type="button"
                    className={css.break}
                    aria-pressed={entry.fracture?.name === f.name}
                    onClick={() => setEntry((e) => ({ ...e, fracture: { name: f.name, place: e.fracture?.place ?? defaultPlace(f.name) } }))}
                  >
                    {f.label}
                    {f.bound !== "exact" && " → at least"}
                  </button>
                ))}
            </div>
          )}
          <BottomBar
            trial={trial.data ?? null}
            offline={offline}
            wrong={wrong}
            test={test}
            curveId={entry.curve?.onServer ? entry.curve.id : null}
            lastCode={stack.at(-1)?.code ?? null}
            ready={firstEmpty(fields) === undefined}
            dimensionsOnly={round === "dimensions"}
            onFault={() => setFaulting(true)}
            onAccept={() => void accept()}
          />
        </>
      )}
      {faulting && current && (
        <FaultDialog
          code={current.code}
          onClose={() => setFaulting(false)}
          onFault={(validity, reason) => {
            setFaulting(false);
            void keep(validity, reason);
          }}
        />
      )}
      {asking && rig && <FileQuestions problem={asking.problem} rigVersionId={rig.id} onClose={() => setAsking(null)} onAnswered={() => void takeFile(asking.file)} />}
      <QueueRefresh testId={test.id} blind={blind} onFresh={() => setDone((d) => settledOnly(d, items))} />
    </div>
  );
}
