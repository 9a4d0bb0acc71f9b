import { Button, TextInput } from "@mantine/core";
import { useForm } from "@mantine/form";
import { useRef, useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { atMinute, figure, setting, span } from "../../ui/format";
import { Questions } from "../../ui/Questions";
import { useAsking } from "../../ui/useAsking";
import { Wide } from "../../ui/Wide";
import css from "./specimen.module.css";

type Run = Schemas["RunView"];
type Reading = Schemas["ReadingView"];

const EVENTS: Record<string, string> = { load_on: "load on", load_off: "load off", exposed: "went in" };

/** What a reading is of: the event, the size or the person it names, or the how manieth it is. */
function nameOf(r: Reading): string {
  if (r.field in EVENTS) return EVENTS[r.field] ?? r.label;
  if (r.about !== null) return `${r.label}, ${r.about}`;
  return r.after === null ? `${r.label} ${String(r.position + 1)}` : r.label;
}

/** What was typed, superseded readings too, each to be corrected with a reason. */
export function Readings({ run, onChanged }: { run: Run; onChanged: () => Promise<unknown> }) {
  const [correcting, setCorrecting] = useState<string | null>(null);
  const timed = run.readings.some((r) => r.after !== null);
  return (
    <div>
      <h3 className={css.small}>Raw entries</h3>
      <Wide label="Readings">
        <table className="plain">
          <thead>
            <tr>
              <th>reading</th>
              {timed && <th className="num">after</th>}
              <th className="num">as typed</th>
              <th className="num">value</th>
              <th>entered</th>
              <th>
                <span className="visually-hidden">action</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {run.readings.map((r) => (
              <tr key={r.id} style={r.superseded ? { textDecoration: "line-through", color: "var(--soft)" } : undefined}>
                <td>
                  {nameOf(r)}
                  {r.load !== null && <span className="soft"> {setting(r.load, "N")}</span>}
                </td>
                {timed && <td className="num">{r.after === null ? "" : span(r.after)}</td>}
                <td className="num">{r.raw}</td>
                <td className="num">{r.field in EVENTS ? "" : `${figure(r.value)} ${r.unit}`}</td>
                <td style={{ fontSize: "0.85rem" }}>
                  {r.entered_by}, {atMinute(r.entered_at)}
                  {r.ambient_c !== null && <span className="soft"> · {setting(r.ambient_c, "°C")}</span>}
                  {r.reason && <div className="soft">corrected: {r.reason}</div>}
                </td>
                <td>
                  {!r.superseded && !(r.field in EVENTS) && correcting !== r.id && (
                    <Button size="compact-sm" variant="subtle" onClick={() => setCorrecting(r.id)} aria-label={`correct ${nameOf(r)}`}>
                      Correct
                    </Button>
                  )}
                  {correcting === r.id && (
                    <CorrectForm
                      run={run}
                      reading={r}
                      onDone={(changed) => {
                        setCorrecting(null);
                        if (changed) void onChanged();
                      }}
                      onRefused={() => void onChanged()}
                    />
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </div>
  );
}

interface CorrectFormProps {
  run: Run;
  reading: Reading;
  onDone: (changed: boolean) => void;
  /** It may have been changed by somebody else: what stands there is read again, what was typed stays. */
  onRefused: () => void;
}

/** The right value and why; it is checked like an entry before it supersedes the earlier one. */
function CorrectForm({ run, reading, onDone, onRefused }: CorrectFormProps) {
  const form = useForm({ initialValues: { raw: reading.raw, reason: "" } });
  const asking = useAsking();
  const id = useRef(newId());
  const send = async (raw: string, confirmed: string[]) => {
    const done = await asking.attempt(async () =>
      unwrap<Schemas["RunView"]>(
        await client.POST("/api/runs/{run_id}/corrections", {
          params: { path: { run_id: run.id }, header: { "if-match": `"${run.revision}"` } },
          body: { id: id.current, field: reading.field, position: reading.position, raw, supersedes: reading.id, reason: form.values.reason, load: reading.load, confirmed },
        }),
      ),
    );
    if (done) onDone(true);
    else onRefused();
  };
  return (
    <form className={css.correct} onSubmit={form.onSubmit(({ raw }) => void send(raw, asking.confirmed))}>
      <TextInput size="xs" label="Right value" {...form.getInputProps("raw")} onFocus={(e) => e.currentTarget.select()} autoFocus error={asking.problem?.text} />
      <TextInput size="xs" label="Why" {...form.getInputProps("reason")} required />
      <Questions
        questions={asking.questions}
        onLikely={(q, likely) => {
          asking.drop(q);
          form.setFieldValue("raw", likely);
          void send(likely, asking.confirmed);
        }}
        onConfirm={(q) => void send(form.values.raw, asking.confirm(q).keys)}
      />
      <span>
        <Button type="submit" size="compact-sm">
          Keep
        </Button>{" "}
        <Button size="compact-sm" variant="subtle" onClick={() => onDone(false)}>
          Cancel
        </Button>
      </span>
    </form>
  );
}
