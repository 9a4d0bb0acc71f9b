import { Button, FileButton, Progress } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useEffect, useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { gcodeFilesOptions, gcodeJobOptions, sendGcode } from "../../api/queries/dialIn";
import { atMinute } from "../../ui/format";
import { ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { Wide } from "../../ui/Wide";
import css from "./gcode.module.css";
import { secondsWords } from "./words";

/** G-code files that were inspected; a new one is dropped or chosen here. */
export function GcodePage() {
  const { trial } = useSearch({ from: "/dial-in/gcode" });
  const files = useQuery(gcodeFilesOptions());
  const navigate = useNavigate();
  if (files.isError) return <ErrorNote error={files.error} again={() => void files.refetch()} />;
  return (
    <div className="page">
      <h1>G-code</h1>
      <p className="soft">What a file does layer by layer: time, filament, speeds and flow; and a setting stepped through it by height. Nothing leaves this machine.</p>
      <Taking trialId={trial} onDone={(id) => void navigate({ to: "/dial-in/gcode/$fileId", params: { fileId: id } })} />
      {files.isPending ? (
        <Waiting what="Reading the files …" />
      ) : files.data.items.length ? (
        <Wide label="Files"><table className="plain" style={{ maxWidth: 860, marginTop: "1rem" }}>
          <thead>
            <tr>
              <th>file</th>
              <th className="num">layers</th>
              <th className="num">print time</th>
              <th className="num">MB</th>
              <th>inspected</th>
            </tr>
          </thead>
          <tbody>
            {files.data.items.map((f) => (
              <tr key={f.id}>
                <td>
                  <Link to="/dial-in/gcode/$fileId" params={{ fileId: f.id }}>
                    {f.name}
                  </Link>
                </td>
                <td className="num">{f.layers}</td>
                <td className="num">{secondsWords(f.time_s)}</td>
                <td className="num">{(f.size / 1e6).toFixed(1)}</td>
                <td className="soft">{atMinute(f.added_at)}</td>
              </tr>
            ))}
          </tbody>
        </table></Wide>
      ) : (
        <p>No file was inspected yet.</p>
      )}
    </div>
  );
}

/** Choosing or dropping a file, then its way to the server and through the inspection, which can be cancelled. */
function Taking({ trialId, onDone }: { trialId: string | undefined; onDone: (id: string) => void }) {
  const [sending, setSending] = useState<{ id: string; name: string; share: number; sent: boolean } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  const take = async (file: File | null | undefined) => {
    if (!file) return;
    const id = newId();
    setProblem(null);
    setSending({ id, name: file.name, share: 0, sent: false });
    try {
      await sendGcode(id, file, trialId, (share) => setSending((s) => s && { ...s, share }));
      setSending((s) => s && { ...s, sent: true });
    } catch (error) {
      setProblem(messageOf(error));
      setSending(null);
    }
  };
  return (
    <div
      className={css.drop}
      data-over={over || undefined}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void take(e.dataTransfer.files[0]);
      }}
    >
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
            {(props) => <Button {...props}>Choose a file</Button>}
          </FileButton>{" "}
          <span className="soft">or drop it here; up to 250 MB</span>
        </>
      )}
      <Refusal text={problem} />
    </div>
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
      <Button size="compact-xs" variant="subtle" mt={6} disabled={!sending.sent} onClick={() => void client.DELETE("/api/gcode/{file_id}/job", { params: { path: { file_id: sending.id } } }).then((a) => unwrap(a))}>
        cancel
      </Button>
    </div>
  );
}
