import { Button, Modal, Select } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { Wide } from "../../ui/Wide";
import { declarationsOptions } from "../../api/queries/rigs";

type Preview = Schemas["FilePreviewView"];
type Roles = Schemas["ChannelRole"][];

interface FileQuestionsProps {
  problem: Partial<Schemas["Problem"]>;
  rigVersionId: string;
  onAnswered: () => void;
  onClose: () => void;
}

const SKIP = "skip";
const unitsOf = (roles: Roles, role: string): string[] => roles.find((r) => r.name === role)?.units ?? [];

/** What was understood; where nothing was, the usual order, for the person to confirm or change. */
function startFrom(preview: Preview, roles: Roles): { role: string; unit: string | null }[] {
  const usual = preview.columns.length === 2 ? ["travel", "force"] : ["time", "travel", "force"];
  const known = preview.columns.some((c) => c.role !== "skip");
  return preview.columns.map((c, i) => {
    const role = known ? c.role : (usual[i] ?? SKIP);
    return { role, unit: c.unit ?? unitsOf(roles, role)[0] ?? null };
  });
}

/** A file that leaves a question: the first rows as read, and what each column is to be taken for. */
export function FileQuestions({ problem, rigVersionId, onAnswered, onClose }: FileQuestionsProps) {
  const declared = useQuery(declarationsOptions());
  if (!declared.data || !problem.preview) return null;
  return <Answer problem={problem} preview={problem.preview} roles={declared.data.roles} rigVersionId={rigVersionId} onAnswered={onAnswered} onClose={onClose} />;
}

function Answer({ problem, preview, roles, rigVersionId, onAnswered, onClose }: FileQuestionsProps & { preview: Preview; roles: Roles }) {
  const [columns, setColumns] = useState(() => startFrom(preview, roles));
  const [error, setError] = useState<string | null>(null);
  const set = (i: number, role: string, unit: string | null) => setColumns(columns.map((c, k) => (k === i ? { role, unit } : c)));
  const keep = async () => {
    try {
      unwrap(
        await client.PUT("/api/rig-versions/{rig_version_id}/file-template", {
          params: { path: { rig_version_id: rigVersionId } },
          body: { signature: preview.signature, columns },
        }),
      );
      onAnswered();
    } catch (e) {
      setError(messageOf(e));
    }
  };
  return (
    <Modal opened onClose={onClose} title="This file leaves a question" size="xl">
      <p style={{ marginTop: 0 }}>Say what the columns are. The answer is kept for all files of this rig that look alike.</p>
      <ul style={{ color: "var(--caution)", margin: "0 0 0.6rem" }}>
        {problem.file_questions?.map((q, i) => (
          <li key={i}>It cannot be told {q.text}.</li>
        ))}
      </ul>
      <div style={{ overflowX: "auto" }}>
        <Wide label="First rows of the file">
          <table className="plain">
            <thead>
              <tr>
                {columns.map((c, i) => (
                  <th key={i} style={{ minWidth: 128 }}>
                    <Select
                      aria-label={`column ${i + 1} is`}
                      size="xs"
                      value={c.role}
                      allowDeselect={false}
                      data={[...roles.map((r) => ({ value: r.name, label: r.name })), { value: SKIP, label: "leave out" }]}
                      onChange={(role) => role && set(i, role, unitsOf(roles, role)[0] ?? null)}
                    />
                    {c.role !== SKIP && (
                      <Select aria-label={`unit of column ${i + 1}`} size="xs" mt={4} value={c.unit} allowDeselect={false} data={unitsOf(roles, c.role)} onChange={(unit) => set(i, c.role, unit)} />
                    )}
                  </th>
                ))}
              </tr>
              {preview.header.length > 0 && (
                <tr>
                  {preview.header.map((h, i) => (
                    <th key={i}>{h}</th>
                  ))}
                </tr>
              )}
            </thead>
            <tbody>
              {preview.rows.map((row, i) => (
                <tr key={i}>
                  {columns.map((_, k) => (
                    <td key={k} className="num">
                      {row[k]}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      </div>
      {error && (
        <p role="alert" style={{ color: "var(--worse)" }}>
          {error}
        </p>
      )}
      <Button mt="md" onClick={() => void keep()}>
        Read it like this
      </Button>
    </Modal>
  );
}
