import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";

import { client, messageOf, Problem, type Schemas, unwrap } from "../../api/client";
import { previewOptions } from "../../api/queries/bench";
import { CourseStrip } from "../../figures/CourseStrip";
import { atMinute, fixed, load, span } from "../../ui/format";
import { readNumber } from "../../ui/number";
import { type Asked, Questions } from "../../ui/Questions";
import { ArmSwatch } from "../../ui/Swatch";
import { type Member, moreHere, shownValue, slotOf, type Task } from "./round";
import css from "./round.module.css";
import type { Round } from "./useRound";

interface DoingProps {
  rack: Schemas["RackView"];
  member: Member;
  task: Task;
  round: Round;
  next: number | null;
  /** Done here; `stay` keeps the place. */
  onDone: (stay?: boolean) => void;
  onSkip: () => void;
  onEnd: () => void;
  /** All was read: it ends so. */
  onEnded: (outcome: string | null) => void;
  onNotice: (text: string | null) => void;
}

/** What is to be done at the place at hand. */
export function Doing(props: DoingProps) {
  const { task } = props;
  if (task.kind === "reading") return <Read {...props} task={task} />;
  return <Act {...props} />;
}

type ReadProps = DoingProps & { task: Extract<Task, { kind: "reading" }> };

/** One reading in large type; the last value is shown only once this one is typed, so that it does not lead the eye. */
function Read(props: ReadProps) {
  const { rack, member, task, round, next, onSkip, onEnd } = props;
  const reading = useReading(props);
  const { raw, draft, asked, problem } = reading;
  const shown = task.along ?? rack;
  return (
    <div className={css.work}>
      <div>
        <Where member={member} words={task.words} />
        <BigEntry name={`${task.field}-${String(task.index)}${task.about === null ? "" : `-${task.about}`}`} label={`${task.words}, ${shown.unit}`} unit={shown.unit} raw={raw} wrong={problem !== null} held={asked.length > 0} onType={reading.type} />
        <p className="soft" style={{ margin: "0.3rem 0 0" }}>
          {reading.readAs ?? (shown.decimals > 0 ? `digits alone are read with ${shown.decimals} decimals` : "")}
          {draft && Date.now() - Date.parse(draft.at) > 120_000 && ` · read at ${atMinute(draft.at)}`}
        </p>
        {problem && (
          <p role="alert" className={css.problem}>
            {problem}
          </p>
        )}
      </div>
      <div className={css.says} aria-live="polite" {...(asked.length ? { "data-asked": true } : {})}>
        <Questions questions={asked} keys onLikely={(_, likely) => reading.type(likely)} onConfirm={reading.confirm} />
        {!asked.length && task.along && <AlongSaid along={task.along} />}
        {!asked.length && !task.along && <Said rack={rack} member={member} task={task} raw={raw} at={draft?.at ?? null} />}
      </div>
      <div>
        <button type="button" data-go data-thumb className={css.go} onClick={() => void reading.keep()}>
          <kbd>Enter</kbd> Keep{member.stage === "hung" || moreHere(member, task, round.kept, round.skipped, round.person) ? "" : next === null ? ", the last one" : `, place ${next + 1}`}
        </button>
        <Keys onSkip={onSkip} onEnd={onEnd} />
      </div>
    </div>
  );
}

/** The reading as it is typed: its draft, what the server makes of it, what it asks, and keeping it. */
function useReading({ rack, member, task, round, onDone, onNotice }: ReadProps) {
  const slot = slotOf(member, task.field, task.index, task.about);
  const draft = round.drafts[slot];
  const raw = draft?.raw ?? "";
  const busy = useRef(false);
  const [asked, setAsked] = useState<Asked[]>([]);
  const [confirmed, setConfirmed] = useState<string[]>([]);
  const [problem, setProblem] = useState<string | null>(null);
  const body = useMemo(() => previewBody(rack, member, task, raw, draft?.at ?? null, round.room?.raw ?? "", confirmed), [rack, member, task, raw, draft?.at, round.room?.raw, confirmed]);
  const [settled] = useDebouncedValue(raw.trim() ? body : null, 90);
  const preview = useQuery(previewOptions(settled));
  const store = async (unchecked: boolean) => {
    await round.keep(member, task.field, task.index, task.about, raw, draft?.at ?? new Date().toISOString(), { confirmed, unchecked });
    // what is read along it comes next, at the same place
    onDone(member.stage === "hung" || moreHere(member, task, round.kept, round.skipped, round.person));
  };
  const keep = async () => {
    if (busy.current) return;
    if (!raw.trim()) return setProblem("type the reading, or press N when it cannot be read");
    busy.current = true;
    try {
      const checked = unwrap<Schemas["Preview"]>(await client.POST("/api/previews", { body }));
      const mistake = checked.errors.find((e) => e.field === task.field && (e.row === null || e.row === task.index));
      if (mistake) setProblem(mistake.text);
      else if (checked.questions.length) setAsked(checked.questions);
      else await store(false);
    } catch (error) {
      if (error instanceof Problem && error.unreachable) await store(true);
      else onNotice(messageOf(error));
    } finally {
      busy.current = false;
    }
  };
  const type = (text: string) => {
    setProblem(null);
    setAsked([]);
    round.type(slot, text);
  };
  const confirm = (q: Asked) => {
    setConfirmed((c) => [...c, q.key]);
    setAsked((rest) => rest.filter((x) => x.key !== q.key));
  };
  return { raw, draft, asked, problem, readAs: raw.trim() ? preview.data?.read_as[0]?.text : undefined, type, confirm, keep };
}

interface BigEntryProps {
  name: string;
  label: string;
  unit: string;
  raw: string;
  wrong: boolean;
  /** A question is open: the cursor stays there. */
  held: boolean;
  onType: (text: string) => void;
}

function BigEntry({ name, label, unit, raw, wrong, held, onType }: BigEntryProps) {
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (held) return;
    // at the end of what stands there: a draft is gone on with
    const field = input.current;
    field?.focus();
    field?.setSelectionRange(field.value.length, field.value.length);
  }, [name, held]);
  return (
    <label className={css.big}>
      <input ref={input} data-entry name={name} aria-label={label} aria-invalid={wrong || undefined} inputMode="decimal" autoComplete="off" value={raw} onChange={(e) => onType(e.currentTarget.value)} />
      <span>{unit}</span>
    </label>
  );
}

function previewBody(rack: Schemas["RackView"], member: Member, task: ReadProps["task"], raw: string, at: string | null, room: string, confirmed: string[]): Schemas["PreviewRequest"] {
  return {
    test_id: member.test_id,
    rig_version_id: rack.rig_version_id,
    specimen_id: member.specimen_id ?? "",
    run_id: member.run_id,
    readings: [{ field: task.field, position: task.index, raw, happened_at: at, ambient_c: readNumber(room) ?? null, load: null, after: null, about: task.about }],
    curve_id: null,
    outcome: null,
    blind: true,
    complete: false,
    confirmed,
  };
}

/** What each grade means; of a size nothing is said before it is typed. */
function AlongSaid({ along }: { along: Schemas["AlongView"] }) {
  if (!along.grades.length) return <div className="soft">Read it where it was read before.</div>;
  return (
    <ol className={css.grades} start={0}>
      {along.grades.map((words, n) => (
        <li key={words}>
          <kbd>{n}</kbd> {words}
        </li>
      ))}
    </ol>
  );
}

/** How the typed value goes on from the last one; nothing before it is typed. */
function Said({ rack, member, task, raw, at }: { rack: Schemas["RackView"]; member: Member; task: ReadProps["task"]; raw: string; at: string | null }) {
  const due = task.due;
  const value = shownValue(raw, rack.decimals);
  const course = (member.stage === "recovering" ? member.recovery : member.course).map((p) => [p.after ?? 0, p.value] as const);
  const start = member.stage === "recovering" ? member.unloaded_at : member.loaded_at;
  const after = start && at ? (Date.parse(at) - Date.parse(start)) / 1000 : null;
  const last = course.at(-1);
  if (value === null) {
    return (
      <>
        {due && <div className={css.due} data-state={due.state}>{dueWords(due)}</div>}
        <div className="soft">The last reading shows once this one is typed, so that it does not lead the eye.</div>
      </>
    );
  }
  if (!last) return <div className="soft">the first reading of this one</div>;
  const more = value - last[1];
  return (
    <>
      <div>
        <span className="figure">{fixed(Math.abs(more), Math.max(2, -Math.floor(Math.log10(rack.step) + 1e-9)))}</span> {rack.unit} {more >= 0 ? "more" : "less"} than after {span(last[0])}
      </div>
      {after !== null && <CourseStrip points={course} now={[after, value]} labels={member.due.filter((_, i) => i % 2 === 1).map((d) => seconds(start, d.at))} />}
    </>
  );
}

const seconds = (start: string | null, at: string): readonly [number, string] => {
  const s = (Date.parse(at) - Date.parse(start ?? at)) / 1000;
  return [s, span(s)];
};

function dueWords(due: Schemas["DueView"]): string {
  if (due.state === "late") return `late: it was to be read by ${atMinute(due.closes)}; it is kept with its true time`;
  if (due.state === "due") return `due: in time until ${atMinute(due.closes)}`;
  return `${due.state === "early" ? "early" : "not yet"}: due ${atMinute(due.at)}, in time from ${atMinute(due.opens)}`;
}

function Where({ member, words }: { member: Member; words: string }) {
  return (
    <div className={css.what}>
      {member.arm && <ArmSwatch arm={member.arm} size={22} />} place {member.position + 1} · <strong className="figure">{member.code}</strong> · {words}
    </div>
  );
}

function Keys({ onSkip, onEnd }: { onSkip: () => void; onEnd: () => void }) {
  return (
    <p className={css.keys}>
      <button type="button" onClick={onSkip}>
        <kbd>N</kbd> not readable
      </button>
      <button type="button" onClick={onEnd}>
        <kbd>O</kbd> came off
      </button>
      <span>
        <kbd>U</kbd> one back
      </span>
    </p>
  );
}

/** Hang the weight, take it off, or say that it is done. */
function Act({ member, task, round, onDone, onSkip, onEnd, onEnded }: DoingProps) {
  const go = useRef<HTMLButtonElement>(null);
  useEffect(() => go.current?.focus(), [task.kind]);
  if (task.kind === "wait") return <p className={css.rest}>It was noted; the rack is being read …</p>;
  const event = async (name: string) => {
    await round.keep(member, name, 0, null, "", new Date().toISOString(), { confirmed: [], unchecked: false });
    // the first reading comes soon after: stay
    onDone(true);
  };
  const usual = member.outcomes[0];
  const first = member.stage === "hung";
  const words = task.kind === "event" ? task.event.begin : "everything has been read";
  const label = task.kind === "event" ? (first && member.load > 0 ? `${load(member.load)} is on` : task.event.begun) : `It ${usual?.label ?? "is done"}`;
  return (
    <div className={css.work}>
      <div>
        <Where member={member} words={words} />
        <div className={css.code}>{member.code}</div>
      </div>
      <div className={css.says}>
        {task.kind === "event" && first && member.load > 0 && <span className="soft">Let it down gently. The first reading follows after a minute; the station stays at this place.</span>}
        {task.kind === "event" && !first && member.due.some((d) => d.state === "missed") && <span className="soft">A missed reading is no error: the curve goes on without it.</span>}
      </div>
      <div>
        <button ref={go} type="button" data-go data-thumb className={css.go} onClick={() => void (task.kind === "event" ? event(task.event.name) : onEnded(usual?.name ?? null))}>
          <kbd>Enter</kbd> {label}
        </button>
        <Keys onSkip={onSkip} onEnd={onEnd} />
      </div>
    </div>
  );
}
