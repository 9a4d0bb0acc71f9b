import { Button, FileButton, Progress } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { gcodeJobOptions, type MadeFor, sendGcode } from "../../api/queries/dialIn";
import { DropFile } from "../../ui/DropFile";
import { Refusal } from "../../ui/Notes";
import css from "./gcode.module.css";

/** Choosing or dropping a file, then its way to the server and through the inspection, which can be cancelled. */
export function GcodeTaking({ madeFor, compact = false, onDone }: { madeFor: MadeFor; /** Without a frame of its own. @default false */ compact?: boolean; onDone: (id: string) => void }) {
  const [sending, setSending] = useState<{ id: string; name: string; share: number; sent: boolean } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const take = async (file: File | null | undefined) => {
    if (!file) return;
    const id = newId();
    setProblem(null);
    setSending({ id, name: file.name, share: 0, sent: false });
    try {
      await sendGcode(id, file, madeFor, (share) => setSending((s) => s && { ...s, share }));
      setSending((s) => s && { ...s, sent: true });
    } catch (error) {
      setProblem(messageOf(error));
      setSending(null);
    }
  };
  return (
    <DropFile className={compact ? css.compact : css.drop} onFile={(file) => void take(file)}>
      {sending ? (
        <Job
          sending={sending}
          onEnd={(words) => {
            setSending(null);
            setProblem(words);
          }}
          onDone={onDone}
        />
      ) : (
        <>
          <FileButton accept=".gcode,.gco,.g,.nc,.txt" onChange={(file) => void take(file)}>
            {(props) => <Button {...props} {...(compact ? { size: "compact-sm", variant: "default" } : {})}>Choose a file</Button>}
          </FileButton>{" "}
          <span className="soft">or drop it here; up to 250 MB</span>
        </>
      )}
      <Refusal text={problem} />
    </DropFile>
  );
}

interface JobProps {
  sending: { id: string; name: string; share: number; sent: boolean };
  onEnd: (words: string | null) => void;
  onDone: (id: string) => void;
}

function Job({ sending, onEnd, onDone }: JobProps) {
  const job = useQuery({ ...gcodeJobOptions(sending.id), enabled: sending.sent, refetchInterval: (q) => (q.state.data && (q.state.data).state !== "running" ? false : 300) });
  const queries = useQueryClient();
  const state = job.data?.state;
  useEffect(() => {
    if (state === "done") {
      refresh(queries, "/api/gcode");
      onDone(sending.id);
    } else if (state === "failed" || state === "cancelled") onEnd(job.data?.words ?? null);
    else if (job.error) onEnd(messageOf(job.error));
    // each end is told once
  }, [state, job.error]); // eslint-disable-line react-hooks/exhaustive-deps
  const share = sending.sent ? 20 + 80 * (job.data?.share ?? 0) : 20 * sending.share;
  return (
    <div role="status">
      <p style={{ margin: "0 0 6px" }}>
        {sending.name}: {sending.sent ? "inspecting" : "reading"} … {Math.round(share)} %
      </p>
      <Progress value={share} aria-label="inspection" />
      <Button size="compact-sm" variant="subtle" mt={6} disabled={!sending.sent} onClick={() => void client.DELETE("/api/gcode/{file_id}/job", { params: { path: { file_id: sending.id } } }).then((a) => unwrap(a))}>
        cancel
      </Button>
    </div>
  );
}
