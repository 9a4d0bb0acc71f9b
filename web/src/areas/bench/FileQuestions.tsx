import { Button, Modal, Select } from "@mantine/core";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";

interface Preview {
  header: string[];
  rows: string[][];
  columns: { index: number; role: string; unit: string | null }[];
  delimiter: string;
  encoding: string;
  signature: string;
}

interface FileQuestionsProps {
  problem: Partial<Schemas["Problem"]>;
  rigVersionId: string;
  onAnswered: () => void;
  onClose: () => void;
}

const UNITS: Record<string, string[]> = { time: ["s", "ms", "min"], travel: ["mm", "1/100 mm", "µm", "cm", "m", "in", "mil"], force: ["N", "kN", "kgf", "gf", "lbf", "daN"], strain: ["1", "%", "‰", "µε"] };
type Role = "time" | "travel" | "force" | "strain" | "skip";

/** What was understood; where nothing was, the usual order, for the person to confirm or change. */
function startFrom(preview: Preview): { role: Role; unit: string | null }[] {
  const usual: Role[] = preview.columns.length === 2 ? ["travel", "force"] : ["time", "travel", "force"];
  const known = preview.columns.some((c) => c.role !== "skip");
  return preview.columns.map((c, i) => {
    const role = known ? (c.role as Role) : (usual[i] ?? "skip");
    return { role, unit: c.unit ?? UNITS[role]?.[0] ?? null };
  });
}

/** A file that leaves a question: the first rows as read, and what each column is to be taken for. */
export function FileQuestions({ problem, rigVersionId, onAnswered, onClose }: FileQuestionsProps) {
  const preview = problem.preview as unknown as Preview;
  const [columns, setColumns] = useState(() => startFrom(preview));
  const [error, setError] = useState<string | null>(null);
  const set = (i: number, role: Role, unit: string | null) => setColumns(columns.map((c, k) => (k === i ? { role, unit } : c)));
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
        {problem.questions?.map((q, i) => (
          <li key={i}>It cannot be told {String(q["text"])}.</li>
        ))}
      </ul>
      <div style={{ overflowX: "auto" }}>
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
                    data={[
                      { value: "force", label: "force" },
                      { value: "travel", label: "travel" },
                      { value: "time", label: "time" },
                      { value: "strain", label: "strain" },
                      { value: "skip", label: "leave out" },
                    ]}
                    onChange={(role) => role && set(i, role, UNITS[role]?.[0] ?? null)}
                  />
                  {c.role !== "skip" && (
                    <Select aria-label={`unit of column ${i + 1}`} size="xs" mt={4} value={c.unit} allowDeselect={false} data={UNITS[c.role] ?? []} onChange={(unit) => set(i, c.role, unit)} />
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
