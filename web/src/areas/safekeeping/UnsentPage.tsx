import { Button, TextInput } from "@mantine/core";
import { useForm } from "@mantine/form";

import { confirmed, KIND_WORDS, type Sending, type Typed, typedOf } from "../../api/entries";
import { outbox, type OutboxEntry, useOutbox } from "../../api/outbox";
import { atMinute, localMinute } from "../../ui/format";
import { Empty } from "../../ui/Notes";
import { Questions, questionsOf } from "../../ui/Questions";
import css from "./unsent.module.css";

/** What this browser keeps because the server has not taken it: what needs a person first, then what goes by itself. */
export function UnsentPage() {
  const { entries, refused, offline } = useOutbox();
  const waiting = entries.filter((e) => !e.refused && !e.dropped_at);
  const dropped = entries.filter((e) => e.dropped_at);
  if (!entries.length) {
    return (
      <div className={`page ${css.page}`}>
        <h1>Kept in this browser</h1>
        <Empty within title="Nothing is kept here">All that was entered in this browser has reached the notebook.</Empty>
      </div>
    );
  }
  return (
    <div className={`page ${css.page}`}>
      <h1>Kept in this browser</h1>
      <p className="soft">Entries that have not reached the notebook yet. They survive closing this window, and are sent once.</p>
      {refused.length > 0 && (
        <section aria-label="Refused">
          <h2>{refused.length === 1 ? "One entry was refused" : `${String(refused.length)} entries were refused`}</h2>
          {refused.map((e) => (
            <Refused key={`${String(e.seq)}-${e.refused ?? ""}`} entry={e} />
          ))}
        </section>
      )}
      {waiting.length > 0 && <OnTheWay entries={waiting} offline={offline} />}
      {dropped.length > 0 && (
        <section aria-label="Dropped">
          <h2>Dropped</h2>
          <p className="soft">They stay here for a week.</p>
          <ul className={css.lines}>
            {dropped.map((e) => (
              <Line key={e.seq} entry={e}>
                <Button size="compact-sm" variant="default" onClick={() => void outbox.putBack(e.seq ?? -1)}>
                  Put back
                </Button>
              </Line>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

/** An entry that waits for a person: what was typed, why it was refused, and the ways on. */
function Refused({ entry }: { entry: OutboxEntry }) {
  const fields = typedOf(entry);
  const form = useForm({ initialValues: Object.fromEntries(fields.map((f, i) => [String(i), f.moment ? localMinute(f.raw) : f.raw])) });
  const seq = entry.seq ?? -1;
  const asked = questionsOf(entry.problem);
  const meant = (f: Typed) => entry.problem?.field === f.field && (entry.problem.row == null || f.row === null || entry.problem.row === f.row);
  const changed = form.isDirty();
  const again = (answered?: Sending) => outbox.mend(seq, answered ?? mended(entry, form.getValues()));
  return (
    <article className={css.card} aria-label={`${KIND_WORDS[entry.kind]}, ${entry.code}`}>
      <h3>
        <span className="figure">{entry.code}</span> {KIND_WORDS[entry.kind]} <Who entry={entry} />
        {entry.kept && <span className={css.kept}>kept for later</span>}
      </h3>
      {!asked.length && <p className={css.why}>{entry.refused}</p>}
      <Questions
        questions={asked}
        onLikely={(q, likely) => {
          const at = fields.findIndex((f) => f.field === q.field && (q.row == null || f.row === null || f.row === q.row));
          if (at >= 0) form.setFieldValue(String(at), fields[at]?.moment ? localMinute(likely) : likely);
        }}
        onConfirm={(q) => void again(confirmed(mended(entry, form.getValues()), q.key))}
      />
      <form className={css.fields} onSubmit={form.onSubmit(() => void again())}>
        {fields.map((f, i) =>
          f.put === null ? (
            <p key={i} className={css.told}>
              <span className="soft">{f.label}</span> {f.raw}
            </p>
          ) : (
            <TextInput key={i} label={f.label} {...form.getInputProps(String(i))} {...(f.moment ? { type: "datetime-local" } : { inputMode: "decimal" as const })} error={meant(f) || undefined} w={f.moment ? 200 : 130} />
          ),
        )}
        <div className={css.acts}>
          <Button type="submit">{changed ? "Send as mended" : "Send again"}</Button>
          {!entry.kept && (
            <Button variant="default" onClick={() => void outbox.keep(seq)}>
              Keep it here
            </Button>
          )}
          <Button variant="subtle" onClick={() => void outbox.drop(seq)}>
            Drop it
          </Button>
        </div>
      </form>
    </article>
  );
}

function OnTheWay({ entries, offline }: { entries: OutboxEntry[]; offline: boolean }) {
  return (
    <section aria-label="On the way">
      <h2>{entries.length === 1 ? "One entry is on its way" : `${String(entries.length)} entries are on their way`}</h2>
      <p className="soft">
        {offline ? "The server does not answer; they are sent as soon as it does." : "They are sent by themselves."}{" "}
        <Button size="compact-sm" variant="default" onClick={() => void outbox.flush()}>
          Send now
        </Button>
      </p>
      <ul className={css.lines}>
        {entries.map((e) => (
          <Line key={e.seq} entry={e}>
            {e.failed && <span className={css.failed}>the server failed on it and it is tried again: {e.failed}</span>}
          </Line>
        ))}
      </ul>
    </section>
  );
}

function Line({ entry, children }: { entry: OutboxEntry; children?: React.ReactNode }) {
  const words = typedOf(entry)
    .filter((f) => !f.moment && f.raw !== "")
    .map((f) => `${f.label} ${f.raw}`)
    .join(" · ");
  return (
    <li>
      <span>
        <strong className="figure">{entry.code}</strong> {KIND_WORDS[entry.kind]} <Who entry={entry} />
        <span className={css.words}>{words}</span>
      </span>
      {children}
    </li>
  );
}

function Who({ entry }: { entry: OutboxEntry }) {
  return (
    <span className={css.who}>
      {decodeURIComponent(entry.by["Assayer-Person"] ?? "somebody")}, {atMinute(new Date(entry.added_at).toISOString())}
    </span>
  );
}

/** The entry with what now stands in its fields. */
function mended(entry: OutboxEntry, values: Record<string, string>): Sending {
  let now: Sending = entry;
  typedOf(entry).forEach((field, i) => {
    const typed = values[String(i)] ?? "";
    const before = field.moment ? localMinute(field.raw) : field.raw;
    if (typed !== before && field.put && (typed || !field.moment)) now = typedOf(now)[i]?.put?.(field.moment ? new Date(typed).toISOString() : typed) ?? now;
  });
  return now;
}
