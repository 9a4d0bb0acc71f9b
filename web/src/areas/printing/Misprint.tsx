import { Button, Popover, Select, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { Refusal } from "../../ui/Notes";
import { armWords } from "../../ui/Swatch";
import css from "./printing.module.css";
import { AFTER_PRINTING } from "./surroundings";

type Batch = Schemas["BatchView"];

/** Filing a misprinted batch under the arm that it is in truth: offered where there is one of the same filament. */
export function Refile({ batch, study }: { batch: Batch; study: Schemas["StudyView"] }) {
  const queries = useQueryClient();
  const own = study.arms.find((a) => a.id === batch.arm_id);
  const others = study.arms.filter((a) => a.id !== batch.arm_id && a.material.id === own?.material.id && a.treatment === own.treatment);
  const [open, setOpen] = useState(false);
  const [to, setTo] = useState<string | null>(null);
  const [reason, setReason] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  if (!others.length) return null;
  const file = async () => {
    if (!to) return;
    try {
      unwrap(await client.POST("/api/batches/{batch_id}/arm", { params: { path: { batch_id: batch.id } }, body: { arm_id: to, reason } }));
      setOpen(false);
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
    refresh(queries, ...AFTER_PRINTING);
  };
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" trapFocus>
      <Popover.Target>
        <Button size="compact-sm" variant="default" onClick={() => setOpen(!open)}>
          It is another arm in truth
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <form
          className={css.refile}
          onSubmit={(e) => {
            e.preventDefault();
            void file();
          }}
        >
          <Select label="file all of this batch under" value={to} onChange={setTo} data={others.map((a) => ({ value: a.id, label: `${a.mark}: ${armWords(a) || a.material.product}` }))} comboboxProps={{ withinPortal: false }} />
          <TextInput label="what was found" placeholder="such as: printed with 40 % infill" value={reason} onChange={(e) => setReason(e.currentTarget.value)} maxLength={80} />
          <p className="soft">Every specimen of it goes along, tested or not; what it leaves waits to be printed again. The plan says so as an amendment.</p>
          <Button type="submit" disabled={!to || !reason.trim()}>
            File it there
          </Button>
          <Refusal text={problem} />
        </form>
      </Popover.Dropdown>
    </Popover>
  );
}

/** Saying that the specimens of a batch have had the treatment of their arm. */
export function Treatment({ batch }: { batch: Batch }) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  if (!batch.treatment) return null;
  const done = batch.specimens.every((s) => s.treated);
  const say = async (at: string | null) => {
    try {
      unwrap(await client.POST("/api/batches/{batch_id}/treated", { params: { path: { batch_id: batch.id } }, body: { at } }));
      setProblem(null);
    } catch (error) {
      setProblem(messageOf(error));
    }
    refresh(queries, ...AFTER_PRINTING);
  };
  return (
    <>
      {done ? (
        <span>
          ✓ treated: {batch.treatment}{" "}
          <Button size="compact-sm" variant="subtle" onClick={() => void say(null)}>
            not yet
          </Button>
        </span>
      ) : (
        <span>
          To be treated: {batch.treatment}{" "}
          <Button size="compact-sm" onClick={() => void say(new Date().toISOString())}>
            done now
          </Button>{" "}
          <Button size="compact-sm" variant="default" onClick={() => void say(batch.printed_at)}>
            done before it was printed
          </Button>
        </span>
      )}
      <Refusal text={problem} />
    </>
  );
}
