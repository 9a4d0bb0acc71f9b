import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { followUpsOptions } from "../../api/queries/day";
import { onDay } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import css from "./lookAgain.module.css";
import { dayAfter, daysUntil, useFollowUps } from "./followUps";

const SPANS = [
  { value: "1", label: "tomorrow" },
  { value: "7", label: "in 7 days" },
  { value: "30", label: "in 30 days" },
  { value: "90", label: "in 90 days" },
  { value: "", label: "on a day …" },
];

/** What of an object is to be looked at again, and when; set, settled, put off, taken back. */
export function LookAgain({ kind, id, className }: { kind: Schemas["FollowUpView"]["object_kind"]; id: string; className?: string }) {
  const list = useQuery(followUpsOptions(kind, id));
  const change = useFollowUps();
  const [text, setText] = useState("");
  // one id a draft: Enter twice is one follow-up
  const [draft, setDraft] = useState(newId);
  const [span, setSpan] = useState("30");
  const [day, setDay] = useState("");
  const now = new Date();
  const due = span ? dayAfter(Number(span), now) : day;
  const set = () =>
    change.attempt(async () => {
      unwrap<Schemas["FollowUpView"]>(await client.POST("/api/follow-ups", { body: { id: draft, object_kind: kind, object_id: id, text, due_on: due } }));
      setText("");
      setDraft(newId());
    });
  const items = list.data?.items ?? [];
  const open = items.filter((f) => !f.done_at);
  const settled = items.length - open.length;
  return (
    <section className={className ?? css.section} aria-label="Look again">
      <h2>
        Look again {settled > 0 && <span className={`soft ${css.small ?? ""}`}>{settled} settled</span>}
      </h2>
      {open.length > 0 && (
        <ul className={css.list}>
          {open.map((f) => (
            <li key={f.id}>
              <span className={css.words}>
                {f.text}{" "}
                <span className="soft" title={onDay(f.due_on)}>
                  {daysUntil(f.due_on, now)} · {f.who || "unsigned"}
                </span>
              </span>
              <button type="button" className={css.act} aria-label={`Settled: ${f.text}`} onClick={() => void change.settle(f)}>
                settled
              </button>
              <button type="button" className={css.act} aria-label={`Put off 7 days: ${f.text}`} onClick={() => void change.putOff(f, dayAfter(7, now))}>
                put off 7 days
              </button>
              <button type="button" className={css.act} aria-label={`Take back: ${f.text}`} onClick={() => void change.takeBack(f)}>
                take back
              </button>
            </li>
          ))}
        </ul>
      )}
      <Settled change={change} />
      <form
        className={css.entry}
        onSubmit={(e) => {
          e.preventDefault();
          if (text.trim() && due) void set();
        }}
      >
        <TextInput aria-label="What to look at again" placeholder="what for: has it yellowed?" value={text} onChange={(e) => setText(e.currentTarget.value)} maxLength={200} style={{ flex: 1, minWidth: 150 }} />
        <NativeSelect aria-label="When" value={span} onChange={(e) => setSpan(e.currentTarget.value)} data={SPANS} />
        {!span && <TextInput type="date" aria-label="On which day" value={day} onChange={(e) => setDay(e.currentTarget.value)} />}
        <Button type="submit" variant="default" disabled={!text.trim() || !due}>
          Set
        </Button>
      </form>
      <Refusal text={change.problem} />
    </section>
  );
}

/** What was changed last, and its undo. */
export function Settled({ change }: { change: ReturnType<typeof useFollowUps> }) {
  if (!change.last) return null;
  return (
    <p role="status" className={css.small}>
      {change.last.words}{" "}
      <button type="button" className={css.act} onClick={() => void change.last?.undo()}>
        Undo
      </button>
    </p>
  );
}
