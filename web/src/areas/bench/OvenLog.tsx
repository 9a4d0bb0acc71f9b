import { Button, Checkbox, FileButton, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { messageOf, Problem, type Schemas, sendCurve } from "../../api/client";
import { newId } from "../../api/ids";
import { rawCurveOptions } from "../../api/queries/bench";
import { FileQuestions } from "./FileQuestions";
import { beginsAt, clockNear, type Log } from "./oven";
import css from "./oven.module.css";
import type { Oven } from "./useOven";

/** A browser keeps so much of a sitting, the file with it. */
const MOST = 1_500_000;

const clockOf = (at: number) => new Date(at).toTimeString().slice(0, 8);

/** Temperatures that a logger wrote: said beforehand, read afterwards, and laid where its first row belongs in time. */
export function OvenLog({ oven, every }: { oven: Oven; every: string | undefined }) {
  const queries = useQueryClient();
  const { sitting, setNotice } = oven;
  const [unclear, setUnclear] = useState<{ problem: Partial<Schemas["Problem"]>; file: File } | null>(null);
  const [busy, setBusy] = useState(false);
  const take = async (file: File) => {
    if (file.size > MOST) return setNotice(`${file.name} has ${(file.size / 1e6).toFixed(1)} MB, and ${(MOST / 1e6).toFixed(1)} are kept here: export a reading every few seconds`);
    setBusy(true);
    try {
      const id = newId();
      const taken = await sendCurve(id, sitting.rig, file, file.name, true);
      const line = await queries.fetchQuery(rawCurveOptions(id));
      const time = taken.preview?.columns.findIndex((c) => c.role === "time") ?? -1;
      const points = Array.from({ length: line?.points ?? 0 }, (_, i) => [line?.xy[2 * i] ?? 0, line?.xy[2 * i + 1] ?? 0] as const);
      oven.setLog({ id, name: file.name, text: await file.text(), begins: beginsAt(taken.preview?.rows[0]?.[time] ?? "", sitting.begun ?? Date.now()), points });
      if (taken.warnings.length) setNotice(taken.warnings.join("; "));
      setUnclear(null);
    } catch (error) {
      if (error instanceof Problem && error.unreachable) setNotice("the server cannot be reached: what you noted stays here; choose the file again when it answers");
      else if (error instanceof Problem && error.body.file_questions?.length) setUnclear({ problem: error.body, file });
      else setNotice(`${file.name}: ${messageOf(error)}`);
    } finally {
      setBusy(false);
    }
  };
  return (
    <div className={css.log}>
      {sitting.log ? (
        <Read log={sitting.log} onChange={oven.setLog} />
      ) : (
        <>
          <Checkbox label="a logger writes along" checked={sitting.logged ?? false} onChange={(e) => oven.logger(e.currentTarget.checked)} />
          <FileButton onChange={(file) => file && void take(file)} inputProps={{ "aria-label": "The logger’s file" }}>
            {(props) => (
              <Button {...props} variant="default" size="sm" loading={busy}>
                Read its file
              </Button>
            )}
          </FileButton>
        </>
      )}
      {(sitting.logged || sitting.log || sitting.every) && (
        <TextInput key={sitting.every} label="looked every, K" inputMode="decimal" defaultValue={sitting.every} placeholder={every ?? "not said"} onBlur={(e) => oven.look(e.currentTarget.value)} onKeyDown={(e) => e.key === "Enter" && oven.look(e.currentTarget.value)} w={130} />
      )}
      {unclear && <FileQuestions problem={unclear.problem} rigVersionId={sitting.rig} onAnswered={() => void take(unclear.file)} onClose={() => setUnclear(null)} />}
    </div>
  );
}

/** Which file, and when its first row was written: the instants of what was seen find their temperatures by it. */
function Read({ log, onChange }: { log: Log; onChange: (log: Log | null) => void }) {
  const [typed, setTyped] = useState(clockOf(log.begins));
  const at = clockNear(typed, log.begins);
  const keep = () => (at === null ? setTyped(clockOf(log.begins)) : onChange({ ...log, begins: at }));
  return (
    <>
      <span>
        <strong>{log.name}</strong>
        <span className="soft">, {log.points.length} points</span>
      </span>
      <TextInput label="its first row was written at" value={typed} error={at === null && "a time of day, such as 14:05:00"} onChange={(e) => setTyped(e.currentTarget.value)} onBlur={keep} onKeyDown={(e) => e.key === "Enter" && keep()} w={190} />
      <Button variant="subtle" size="sm" onClick={() => onChange(null)}>
        Take another file
      </Button>
    </>
  );
}
