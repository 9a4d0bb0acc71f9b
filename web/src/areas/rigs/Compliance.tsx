import { Button, FileButton, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { refresh } from "../../api/api";
import { client, identity, messageOf, Problem, type Schemas, unwrap } from "../../api/client";
import { Refusal } from "../../ui/Notes";
import { Moved } from "./Moved";
import { Recomputing } from "./Recomputing";
import css from "./rigs.module.css";
import { load } from "../../ui/format";
import { readNumber } from "../../ui/number";

/** How far the frame itself gives: read off a pull on a bar that does not. */
export function Compliance({ rig }: { rig: Schemas["RigView"] }) {
  const queries = useQueryClient();
  const [read, setRead] = useState<Schemas["ComplianceView"] | null>(null);
  const [bar, setBar] = useState<Bar>({ length: "", area: "", modulus: "210" });
  const [moved, setMoved] = useState<Schemas["MovedList"] | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const reset = useRef<() => void>(null);
  const take = async (file: File | null) => {
    // the same file may be chosen again once the bar is described
    reset.current?.();
    if (!file) return;
    setMoved(null);
    const asked = queryOf(bar);
    if (asked === undefined) {
      setRead(null);
      return setProblem("the bar: length, section and modulus are numbers above 0; leave length and section empty where they are not known");
    }
    try {
      const response = await fetch(`/api/rig-versions/${rig.id}/compliance-reading${asked}`, { method: "POST", headers: { ...identity(), "Content-Type": "application/octet-stream" }, body: file }).catch(() => {
        throw new Problem(0, {});
      });
      const body: unknown = await response.json().catch(() => ({}));
      if (!response.ok) throw new Problem(response.status, body as Partial<Schemas["Problem"]>);
      setRead(body as Schemas["ComplianceView"]);
      setProblem(null);
    } catch (error) {
      setRead(null);
      setProblem(messageOf(error));
    }
  };
  const keep = async (compliance: number, uncertainty: number) => {
    setBusy(true);
    try {
      setMoved(unwrap<Schemas["MovedList"]>(await client.PUT("/api/rig-versions/{rig_version_id}/compliance", { params: { path: { rig_version_id: rig.id } }, body: { compliance, uncertainty } })));
      setRead(null);
      refresh(queries, "/api/rigs/{rig_id}", "/api/rigs", "/api/studies/{study_id}/board", "/api/tests/{test_id}/findings", "/api/specimens/{specimen_id}", "/api/runs/{run_id}/curve", "/api/tests/{test_id}/curves");
    } catch (error) {
      setProblem(messageOf(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <section aria-label="Machine compliance">
      <h2>Machine compliance</h2>
      <p style={{ margin: "0.2rem 0" }}>
        <span className={css.value}>{rig.compliance === null ? "not known" : microns(rig.compliance)}</span> {rig.compliance !== null && `µm/N${rig.compliance_uncertainty === null ? "" : ` ± ${microns(rig.compliance_uncertainty, 2)} (standard uncertainty)`}`}{" "}
        <span className="soft">{rig.compliance === null ? "strain from travel includes the give of the frame itself, and every apparent modulus says so" : "is subtracted from the travel before strain is computed"}</span>
      </p>
      <div className={css.row} role="group" aria-label="The rigid bar" style={{ margin: "0.4rem 0 0.6rem" }}>
        {BAR.map(({ name, label }) => (
          <TextInput key={name} size="xs" label={label} w={150} inputMode="decimal" value={bar[name]} onChange={(e) => { const text = e.currentTarget.value; setBar((b) => ({ ...b, [name]: text })); }} />
        ))}
      </div>
      <FileButton resetRef={reset} onChange={(f) => void take(f)} accept=".csv,.txt,.tsv,.dat">
        {(props) => (
          <Button {...props} size="xs" variant="default">
            Read it off a pull on a rigid bar …
          </Button>
        )}
      </FileButton>
      <Refusal text={problem} />
      <Recomputing rigVersionId={rig.id} busy={busy} />
      {read && <Proposed read={read} busy={busy} onUse={() => void keep(read.compliance, read.uncertainty)} onLeave={() => setRead(null)} />}
      {moved && <Moved list={moved} />}
    </section>
  );
}

/** What was read off the file, before it is used. */
function Proposed({ read, busy, onUse, onLeave }: { read: Schemas["ComplianceView"]; busy: boolean; onUse: () => void; onLeave: () => void }) {
  return (
    <div className={css.form} role="status">
      <div>
        <span className={css.value}>{microns(read.compliance)}</span> µm/N ± {microns(read.uncertainty, 2)} <span className="soft">(standard uncertainty)</span>
        {read.of_bar > 0 && <span className="soft"> · {microns(read.of_bar)} µm/N of the bar itself subtracted</span>}
      </div>
      <div className="soft">
        from {read.rows} rows between {load(read.force_range[0])} and {load(read.force_range[1])}, R² {read.r2.toFixed(4)}
      </div>
      {read.warnings.map((w) => (
        <div key={w} style={{ color: "var(--caution)" }}>
          {w}
        </div>
      ))}
      <div className={css.row}>
        <Button size="xs" loading={busy} onClick={onUse} autoFocus>
          Use it for this rig
        </Button>
        <Button size="xs" variant="subtle" disabled={busy} onClick={onLeave}>
          Leave it
        </Button>
      </div>
    </div>
  );
}

type Bar = Record<"length" | "area" | "modulus", string>;
const BAR = [
  { name: "length", label: "bar between grips, mm" },
  { name: "area", label: "its section, mm²" },
  { name: "modulus", label: "its modulus, GPa" },
] as const;

/** What the server is asked about the bar; empty where it is not known, undefined where it cannot be. */
export function queryOf(bar: Bar): string | undefined {
  const [length, area, modulus] = BAR.map(({ name }) => readNumber(bar[name]));
  if (length === null && area === null) return "";
  if (!length || !area || !modulus || Math.min(length, area, modulus) <= 0) return undefined;
  return `?${new URLSearchParams({ bar_length: String(length), bar_area: String(area), bar_modulus: String(modulus * 1000) }).toString()}`;
}

const microns = (c: number, digits = 3): string => (c * 1000).toPrecision(digits);
