import { Switch } from "@mantine/core";
import { useInterval, useLocalStorage } from "@mantine/hooks";
import { useEffect, useRef, useState } from "react";

import { listOf, type Stamp } from "../../areas/bench/entry";
import css from "../capture.module.css";
import { NumberField } from "../NumberField";
import { type PartProps, unitOf } from "../parts";
import { readAt, seconds, soundsBetween } from "./clock";
import { call, tick, wake } from "./sound";
import { setting } from "../../ui/format";

/** A ladder of weights, one by one: the clock runs from the moment a weight hangs, and calls each reading as it falls due. */
export function TimedLoadsPart(props: PartProps) {
  const { step, test, rig, entry, onValue, wrong, doubts, readAs } = props;
  const ladder = listOf(test.protocol, step.ladder);
  const times = listOf(test.protocol, step.times);
  const field = step.fields.find((f) => f.by_load);
  const [silent, setSilent] = useLocalStorage({ key: "assayer.silent", defaultValue: false, getInitialValueInEffect: false });
  const on = ladder.map((_, i) => entry.stamps[`load_on-${i}`]);
  const current = on.findLastIndex((s) => s !== undefined);
  const loadedAt = current >= 0 ? Date.parse(on[current]?.at ?? "") : null;
  const now = useClock(loadedAt, times, silent, (j) => {
    // as the tone sounds, the cursor waits where the reading goes
    const input = document.querySelector<HTMLInputElement>(`input[name="${field?.name ?? ""}-${current * times.length + j}"]`);
    if (input && !input.value) input.focus();
  });
  if (!field) return null;
  const elapsed = loadedAt === null ? 0 : (now - loadedAt) / 1000;
  const read = (i: number) => times.some((_, j) => (entry.values[`${field.name}-${i * times.length + j}`] ?? "").trim() !== "");
  return (
    <div className={css.ladder}>
      <div className={css.clock} role="timer" aria-label="time under this weight">
        {loadedAt === null ? (
          <span className="soft">Zero the display, then put the first weight on: the clock runs from there.</span>
        ) : (
          <UnderWeight elapsed={elapsed} load={ladder[current] ?? 0} times={times} last={current + 1 === ladder.length} />
        )}
        <Switch size="sm" ml="auto" label="silent" checked={silent} onChange={(e) => setSilent(e.currentTarget.checked)} />
      </div>
      {ladder.map((load, i) => (
        <Rung key={load} part={props} field={field} load={load} index={i} times={times} on={on[i]} elapsed={i === current ? elapsed : null} next={i === current + 1 && (i === 0 || read(i - 1))} />
      ))}
      <div className={css.rung}>
        <span className="soft">all off</span>
        <div className={css.times}>
          {step.fields
            .filter((f) => !f.by_load)
            .map((f) => (
              <NumberField key={f.name} name={`${f.name}-0`} label={f.label} unit={unitOf(rig, f)} value={entry.values[`${f.name}-0`] ?? ""} onChange={(raw) => onValue(`${f.name}-0`, raw, { at: new Date().toISOString() })} wrong={wrong.get(`${f.name}-0`)} doubt={doubts.get(`${f.name}-0`)} readAs={readAs.get(`${f.name}-0`)}>
                <span className="soft">what stays</span>
              </NumberField>
            ))}
        </div>
      </div>
    </div>
  );
}

/** How long the weight has hung, and what comes next. */
function UnderWeight({ elapsed, load, times, last }: { elapsed: number; load: number; times: readonly number[]; last: boolean }) {
  const due = times.find((t) => t > elapsed);
  return (
    <>
      <strong>{seconds(elapsed)}</strong>
      <span className="soft">s under {setting(load, "N")}</span>
      <span>{due !== undefined ? `next reading in ${seconds(due - elapsed)} s` : last ? "all off, then read what stays" : "put the next weight on"}</span>
    </>
  );
}

interface RungProps {
  part: PartProps;
  field: PartProps["step"]["fields"][number];
  /** N. */
  load: number;
  index: number;
  /** Seconds after the weight was put on. */
  times: readonly number[];
  on: Stamp | undefined;
  /** Seconds under this weight while it is the last one; null otherwise. */
  elapsed: number | null;
  /** This is the weight to put on now. */
  next: boolean;
}

/** One weight of the ladder: putting it on, and its readings. */
function Rung({ part, field, load, index, times, on, elapsed, next }: RungProps) {
  const { rig, entry, onValue, onStamp, wrong, doubts, readAs } = part;
  const keyOf = (j: number) => `${field.name}-${index * times.length + j}`;
  const put = () => {
    wake();
    onStamp(`load_on-${index}`, { at: new Date().toISOString(), load });
    document.querySelector<HTMLInputElement>(`input[name="${keyOf(0)}"]`)?.focus();
  };
  const type = (j: number, raw: string) => {
    const key = keyOf(j);
    const start = on ? Date.parse(on.at) : null;
    // the first keystroke tells when it was read
    const at = entry.stamps[key]?.at ?? new Date(start === null ? Date.now() : readAt(start, times[j] ?? 0, Date.now())).toISOString();
    if (raw.trim()) onValue(key, raw, { at, load });
    else onValue(key, raw);
  };
  return (
    <div className={css.rung} data-on={elapsed !== null || undefined}>
      <button type="button" className={css.weight} name={`load_on-${index}`} data-next={next || undefined} disabled={!next} onClick={put}>
        {on ? `${setting(load, "N")} is on` : `${setting(load, "N")} on`}
      </button>
      <div className={css.times}>
        {times.map((t, j) => {
          const key = keyOf(j);
          const value = entry.values[key] ?? "";
          return (
            <NumberField
              key={t}
              name={key}
              label={`deflection at ${setting(load, "N")} after ${String(t)} s`}
              unit={unitOf(rig, field)}
              value={value}
              onChange={(raw) => type(j, raw)}
              wrong={wrong.get(key)}
              doubt={doubts.get(key)}
              readAs={readAs.get(key)}
              readOnly={!on}
              due={elapsed !== null && elapsed >= t - 3 && !value.trim()}
            >
              <span className="soft">{lateWords(on, entry.stamps[key], t)}</span>
            </NumberField>
          );
        })}
      </div>
    </div>
  );
}

function lateWords(on: Stamp | undefined, read: Stamp | undefined, due: number): string {
  if (!on || !read) return `after ${String(due)} s`;
  const taken = (Date.parse(read.at) - Date.parse(on.at)) / 1000;
  return Math.abs(taken - due) < 0.5 ? `after ${String(due)} s` : `read after ${seconds(taken)} s`;
}

/** The instant, a few times a second while a weight hangs; sounds as readings near and fall due. */
function useClock(loadedAt: number | null, times: readonly number[], silent: boolean, onDue: (index: number) => void): number {
  const [now, setNow] = useState(() => Date.now());
  const last = useRef(Date.now());
  const due = useRef(onDue);
  useEffect(() => {
    due.current = onDue;
  });
  const beat = useInterval(() => {
    const at = Date.now();
    if (loadedAt !== null) {
      const [before, after] = [(last.current - loadedAt) / 1000, (at - loadedAt) / 1000];
      if (!silent) soundsBetween(times, before, after).forEach((s) => (s === "tick" ? tick() : call()));
      const fallen = times.findIndex((t) => before < t && t <= after);
      if (fallen >= 0) due.current(fallen);
    }
    last.current = at;
    setNow(at);
  }, 200);
  useEffect(() => {
    last.current = Date.now();
    if (loadedAt !== null) beat.start();
    return beat.stop;
    // the interval's own functions change with every render
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [loadedAt]);
  return now;
}
