import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";

import { gcodeFilesOptions } from "../../api/queries/dialIn";
import { atMinute } from "../../ui/format";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { Wide } from "../../ui/Wide";
import { GcodeTaking } from "./GcodeTaking";
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
      <GcodeTaking madeFor={{ trial }} onDone={(id) => void navigate({ to: "/dial-in/gcode/$fileId", params: { fileId: id } })} />
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
