import { Button, Select, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, type Schemas, unwrap } from "../../api/client";
import { CalibrationStrip } from "../../figures/CalibrationStrip";
import { localMinute } from "../../ui/format";
import { readNumber, typed } from "../../ui/number";
import { Questions } from "../../ui/Questions";
import { useAsking } from "../../ui/useAsking";
import { Restored, useDraftForm } from "../../ui/useDraftForm";
import { Moved } from "./Moved";
import { Recomputing } from "./Recomputing";
import css from "./rigs.module.css";

type Calibration = Schemas["CalibrationView"];

const RIG_QUERIES = ["/api/rigs/{rig_id}", "/api/rigs", "/api/studies/{study_id}/board", "/api/tests/{test_id}/findings", "/api/specimens/{specimen_id}", "/api/day", "/api/runs/{run_id}/curve", "/api/tests/{test_id}/curves", "/api/studies", "/api/materials/{material_id}"] as const;

/** Which factor held when; a new one, or a correction, recomputes what was measured under it. */
export function Calibrations({ rig, calibrations }: { rig: Schemas["RigView"]; calibrations: readonly Calibration[] }) {
  const [chosen, setChosen] = useState<Calibration | "new" | null>(null);
  const [moved, setMoved] = useState<Schemas["MovedList"] | null>(null);
  const [now] = useState(() => Date.now());
  const standing = calibrations.filter((c) => c.retracted_at === null);
  return (
    <section aria-label="Calibrations">
      <div className={css.head}>
        <h2>Calibrations</h2>
        <Button size="xs" variant="default" onClick={() => setChosen("new")}>
          Calibrate …
        </Button>
      </div>
      {standing.length ? (
        <>
          <CalibrationStrip calibrations={calibrations} now={now} chosen={chosen !== null && chosen !== "new" ? chosen.id : null} onChoose={(id) => setChosen(standing.find((c) => c.id === id) ?? null)} />
          <p className="soft" style={{ margin: 0, fontSize: "0.85rem" }}>
            A bar is the time that a factor holds, its flag the day it is to be done again.
          </p>
          <div className={css.correct}>
            {standing.map((c) => (
              <button key={c.id} type="button" onClick={() => setChosen(c)}>
                correct {c.channel} × {c.factor.toFixed(4)}
              </button>
            ))}
          </div>
        </>
      ) : (
        <p className="soft">Never calibrated: its displays are taken as they stand. A reading after the due date of a calibration is marked.</p>
      )}
      {chosen !== null && (
        <CalibrationForm
          key={chosen === "new" ? "new" : chosen.id}
          rig={rig}
          calibration={chosen === "new" ? null : chosen}
          onDone={(list) => {
            setChosen(null);
            if (list) setMoved(list);
          }}
        />
      )}
      {moved && <Moved list={moved} />}
    </section>
  );
}

interface CalibrationFormProps {
  rig: Schemas["RigView"];
  /** null: a new one. */
  calibration: Calibration | null;
  onDone: (moved: Schemas["MovedList"] | null) => void;
}

function CalibrationForm({ rig, calibration: c, onDone }: CalibrationFormProps) {
  const queries = useQueryClient();
  const asking = useAsking();
  const [busy, setBusy] = useState(false);
  const draft = useDraftForm(`assayer.form.calibration.${c ? `${c.id}.${String(c.revision)}` : rig.id}`, {
    initialValues: {
      channel: c?.channel ?? rig.channels[0]?.name ?? "",
      shown: "",
      truth: "",
      factor: typed(c?.factor),
      from: localMinute(c?.valid_from ?? new Date().toISOString()),
      due: c?.due_at ? localMinute(c.due_at).slice(0, 10) : "",
      note: c?.note ?? "",
    },
    validate: { factor: (v) => ((readNumber(v) ?? 0) > 0 ? null : "true value / value shown, such as 1.0040") },
  });
  const { form, id } = draft;
  const unit = rig.channels.find((x) => x.name === form.values.channel)?.unit ?? "";
  const weigh = (shown: string, truth: string) => {
    const [s, t] = [readNumber(shown), readNumber(truth)];
    form.setValues({ shown, truth, ...(s && t && { factor: (t / s).toFixed(5) }) });
  };
  const send = (retracted: boolean, confirmed = asking.confirmed) =>
    asking.attempt(async () => {
      const v = form.values;
      const body = { factor: readNumber(v.factor) ?? 0, note: v.note, confirmed };
      const valid_from = new Date(v.from).toISOString();
      const due_at = v.due ? new Date(`${v.due}T12:00`).toISOString() : null;
      // the fields show minutes and days: what nobody touched stays to the second
      const moved = { ...(form.isDirty("from") && { valid_from }), ...(form.isDirty("due") && { due_at }) };
      setBusy(true);
      const sent = c
        ? client.PATCH("/api/calibrations/{calibration_id}", { params: { path: { calibration_id: c.id }, header: { "if-match": `"${String(c.revision)}"` } }, body: retracted ? { retracted: true, confirmed } : { ...body, ...moved } })
        : client.POST("/api/rig-versions/{rig_version_id}/calibrations", { params: { path: { rig_version_id: rig.id } }, body: { id, channel: v.channel, valid_from, valid_to: null, due_at, ...body } });
      const list = unwrap<Schemas["MovedList"]>(await sent.finally(() => setBusy(false)));
      draft.forget();
      refresh(queries, ...RIG_QUERIES);
      onDone(list);
    });
  const errorOf = (field: string) => (asking.problem?.field === field ? asking.problem.text : undefined);
  return (
    <form className={css.form} onSubmit={form.onSubmit(() => void send(false))} aria-label={c ? "Correct a calibration" : "Calibrate"}>
      <Restored draft={draft} />
      <div className={css.row}>
        <Select label="channel" data={rig.channels.map((x) => x.name)} disabled={c !== null} allowDeselect={false} w={130} {...form.getInputProps("channel")} />
        <TextInput label={`display shows, ${unit}`} w={130} inputMode="decimal" value={form.values.shown} onChange={(e) => weigh(e.currentTarget.value, form.values.truth)} data-autofocus autoFocus={c === null} />
        <TextInput label={`it truly is, ${unit}`} w={130} inputMode="decimal" value={form.values.truth} onChange={(e) => weigh(form.values.shown, e.currentTarget.value)} />
        <TextInput label="factor" w={120} inputMode="decimal" {...form.getInputProps("factor")} error={form.errors["factor"] ?? errorOf("factor")} />
        <TextInput label="holds from" type="datetime-local" w={225} {...form.getInputProps("from")} error={errorOf("valid_from")} />
        <TextInput label="again on" type="date" w={150} {...form.getInputProps("due")} error={errorOf("due_at")} />
        <TextInput label="note" w={220} maxLength={200} {...form.getInputProps("note")} />
      </div>
      <Questions
        questions={asking.questions}
        onLikely={asking.drop}
        onConfirm={(q) => {
          const { keys, last } = asking.confirm(q);
          if (last) void send(false, keys);
        }}
      />
      {asking.problem && (
        <p role="alert" className={css.problem}>
          {asking.problem.text}
        </p>
      )}
      <Recomputing rigVersionId={rig.id} busy={busy} />
      <div className={css.row}>
        <Button type="submit" loading={busy}>{c ? "Correct it" : "Keep the calibration"}</Button>
        {c && (
          <Button variant="default" disabled={busy} onClick={() => void send(true)}>
            It never held: take it back
          </Button>
        )}
        <Button variant="subtle" disabled={busy} onClick={() => onDone(null)}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
