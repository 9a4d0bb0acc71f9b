import { Button, FileButton, Select } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { refresh } from "../../api/api";
import { messageOf, type Schemas } from "../../api/client";
import { fileKey, useIds } from "../../api/useIds";
import { partsOptions, sendPart } from "../../api/queries/parts";
import { pathOf, placed, spanOf } from "../../figures/drawings/outlines";
import { size } from "../../figures/drawings/sizes";
import { DropFile } from "../../ui/DropFile";
import { ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import css from "./parts.module.css";

type Part = Schemas["PartView"];

/** Parts of one's own: what is printed in use, beside the shapes that are printed to be tested. */
export function PartsPage() {
  const parts = useQuery(partsOptions());
  if (parts.isPending) return <Waiting what="Drawing the parts …" />;
  if (parts.isError) return <ErrorNote error={parts.error} again={() => void parts.refetch()} />;
  return (
    <div className="page">
      <Link to="/rigs/shapes" className="soft">
        Shapes
      </Link>
      <h1>Parts of your own</h1>
      <p className="soft">A part from its file, with the places where it is graded, measured and loaded. A test of parts in use is done on it; it is laid on plates and printed like any specimen.</p>
      <TakeIn />
      <ul className={css.list}>
        {parts.data.items.map((p) => (
          <li key={p.id}>
            <Link to="/rigs/parts/$partId" params={{ partId: p.id }}>
              <Small part={p} />
              <strong>{p.name}</strong>
              <span className="soft">
                {size(p.length)} × {size(p.width)} × {size(p.height)} · {p.volume.toFixed(2)} cm³
              </span>
              <span className="soft">
                {p.places.length ? `${String(p.places.length)} ${p.places.length === 1 ? "place" : "places"}` : "no places yet"}
                {p.tests > 0 && ` · in ${String(p.tests)} ${p.tests === 1 ? "test" : "tests"}`}
              </span>
            </Link>
          </li>
        ))}
      </ul>
      {!parts.data.items.length && <p className="soft">None yet. Take in the first one above.</p>}
    </div>
  );
}

/** Choosing or dropping a file; where its unit was not what it seemed, it is read once more in another. */
function TakeIn() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const ids = useIds();
  const [unit, setUnit] = useState<string | null>(null);
  const [busy, setBusy] = useState<string | null>(null);
  const [refused, setRefused] = useState<{ file: File; text: string } | null>(null);
  const take = async (file: File | null | undefined, drawnIn = unit) => {
    if (!file) return;
    setRefused(null);
    setBusy(file.name);
    try {
      const made = await ids.sent(`${fileKey(file)} ${String(drawnIn)}`, (id) => sendPart(id, file, drawnIn));
      refresh(queries, "/api/parts");
      await navigate({ to: "/rigs/parts/$partId", params: { partId: made.id } });
    } catch (error) {
      setRefused({ file, text: messageOf(error) });
    } finally {
      setBusy(null);
    }
  };
  return (
    <DropFile className={css.take} onFile={(file) => void take(file)}>
      <FileButton accept=".stl,.3mf" onChange={(file) => void take(file)}>
        {(props) => (
          <Button {...props} loading={busy !== null}>
            Take in a part
          </Button>
        )}
      </FileButton>
      <Select
        aria-label="Drawn in"
        w={190}
        value={unit ?? ""}
        allowDeselect={false}
        onChange={(u) => {
          setUnit(u || null);
          if (refused) void take(refused.file, u || null);
        }}
        data={[{ value: "", label: "unit: as the file says" }, ...["mm", "cm", "m", "in"].map((u) => ({ value: u, label: `drawn in ${u}` }))]}
      />
      <span className="soft">an STL or 3MF file, or drop it here; up to 50 MB</span>
      {busy !== null && <span role="status">reading {busy} …</span>}
      {refused && <Refusal text={`${refused.file.name}: ${refused.text}`} />}
    </DropFile>
  );
}

const [W, H] = [220, 130];

function Small({ part }: { part: Part }) {
  const span = spanOf(part.views.top);
  const [w, h] = [span.u[1] - span.u[0], span.v[1] - span.v[0]];
  const scale = Math.min((W - 20) / w, (H - 20) / h);
  const view = placed(span, (W - w * scale) / 2, (H + h * scale) / 2, scale);
  return (
    <svg viewBox={`0 0 ${String(W)} ${String(H)}`} aria-hidden="true">
      <path d={pathOf(part.views.top, view.at)} fill="var(--raised)" stroke="var(--ink)" strokeWidth="1.2" fillRule="evenodd" />
    </svg>
  );
}
