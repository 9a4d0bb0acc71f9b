import { Button, Switch } from "@mantine/core";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { type ReactNode, useLayoutEffect, useRef, useState } from "react";

import { api, as, refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { pictureOf } from "../../api/queries/dialIn";
import { NumberEntry } from "../../ui/NumberEntry";
import { atMinute, capital, short } from "../../ui/format";
import { Empty, ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { chip } from "../dial_in/words";
import { PhotoChoice } from "./PhotoChoice";
import css from "./photos.module.css";

type Photo = Schemas["PhotoView"];

type OnTable = Schemas["PhotoOnTable"];

/** More are too narrow to compare. */
const MOST = 12;

const tableOptions = (photo: string[]) => ({ ...api.queryOptions("get", "/api/light-table", { params: { query: { photo } } }, as<Schemas["LightTableView"]>()), placeholderData: keepPreviousData });

/** Two or more photographs side by side, moved and magnified together; at one scale where marks were measured. */
export function LightTable() {
  const { photos } = useSearch({ from: "/dial-in/light-table" });
  const navigate = useNavigate();
  const ids = (photos ?? "").split(",").filter(Boolean).slice(0, MOST);
  const found = useQuery({ ...tableOptions(ids), enabled: ids.length > 0 });
  const lay = (chosen: readonly string[]) => void navigate({ to: "/dial-in/light-table", search: chosen.length ? { photos: chosen.join(",") } : {}, replace: true });
  const choose = <PhotoChoice lying={ids} most={MOST} onChange={lay} />;
  if (found.isError) return <ErrorNote error={found.error} again={() => void found.refetch()} />;
  if (!ids.length) {
    return (
      <Empty title="Nothing lies on the light table">
        Choose photographs of trials, prints or spools, to see them side by side.
        <div style={{ marginTop: 16 }}>{choose}</div>
      </Empty>
    );
  }
  if (!found.data) return <Waiting what="Laying out the photographs …" />;
  return <Table items={found.data.items.filter((i) => ids.includes(i.photo.id))} choose={choose} onRemove={(id) => lay(ids.filter((other) => other !== id))} />;
}

/** Screen pixels for each mm, or for each pixel of a picture without a scale. */
interface View {
  zoom: number;
  x: number;
  y: number;
}

function Table({ items, choose, onRemove }: { items: OnTable[]; choose: ReactNode; onRemove: (id: string) => void }) {
  const photos = items.map((i) => i.photo);
  const scaled = photos.length > 0 && photos.every((p) => p.scale !== null);
  const [view, setView] = useState<View>({ zoom: 1, x: 0.5, y: 0.5 });
  const [bySize, setBySize] = useState(scaled);
  const zoom = (factor: number) => setView((v) => ({ ...v, zoom: Math.min(40, Math.max(0.2, v.zoom * factor)) }));
  const keys = (e: React.KeyboardEvent) => {
    if ((e.target as HTMLElement).matches("input")) return;
    const step = 0.08 / view.zoom;
    const move: Record<string, [number, number]> = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] };
    const by = move[e.key];
    if (by) setView((v) => ({ ...v, x: v.x + by[0], y: v.y + by[1] }));
    else if (e.key === "+" || e.key === "=") zoom(1.25);
    else if (e.key === "-") zoom(0.8);
    else if (e.key === "0") setView({ zoom: 1, x: 0.5, y: 0.5 });
    else return;
    e.preventDefault();
  };
  return (
    <div className="page" onKeyDown={keys}>
      <h1>Light table</h1>
      <div className={css.bar}>
        <Button size="xs" variant="default" aria-label="smaller" onClick={() => zoom(0.8)}>
          −
        </Button>
        <Button size="xs" variant="default" aria-label="larger" onClick={() => zoom(1.25)}>
          +
        </Button>
        <Button size="xs" variant="default" onClick={() => setView({ zoom: 1, x: 0.5, y: 0.5 })}>
          whole pictures
        </Button>
        <Switch size="sm" label={scaled ? "at one scale, by their marks" : "at one scale: measure a mark in each first"} disabled={!scaled} checked={bySize && scaled} onChange={(e) => setBySize(e.currentTarget.checked)} />
        {choose}
        <span className="soft">drag to move, wheel to magnify; all move together</span>
      </div>
      <div className={css.table} tabIndex={0} role="group" aria-label="Photographs side by side">
        {items.map((i) => (
          <Pane key={i.photo.id} item={i} view={view} setView={setView} onRemove={() => onRemove(i.photo.id)} largest={bySize && scaled ? Math.max(...photos.map((o) => o.width * (o.scale ?? 1))) : null} />
        ))}
      </div>
    </div>
  );
}

interface PaneProps {
  item: OnTable;
  onRemove: () => void;
  view: View;
  setView: React.Dispatch<React.SetStateAction<View>>;
  /** Width in mm of the widest picture, where all are shown at one scale. */
  largest: number | null;
}

function Pane({ item, view, setView, largest, onRemove }: PaneProps) {
  const { photo } = item;
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 400, height: 400 });
  const [marks, setMarks] = useState<{ x: number; y: number }[] | null>(null);
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setSize({ width: element.clientWidth, height: element.clientHeight }));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  // one magnification for all: as wide as the pane, or the same mm on the screen
  const base = largest === null || photo.scale === null ? size.width / photo.width : (size.width / largest) * photo.scale;
  const k = base * view.zoom;
  const left = size.width / 2 - view.x * photo.width * k;
  const top = size.height / 2 - view.y * photo.height * k;
  const drag = (e: React.PointerEvent) => {
    if (e.buttons !== 1 || marks) return;
    setView((v) => ({ ...v, x: v.x - e.movementX / (photo.width * k), y: v.y - e.movementY / (photo.height * k) }));
  };
  const mark = (e: React.MouseEvent<HTMLDivElement>) => {
    if (!marks || marks.length > 1) return;
    const at = e.currentTarget.getBoundingClientRect();
    setMarks([...marks, { x: (e.clientX - at.left - left) / k, y: (e.clientY - at.top - top) / k }]);
  };
  return (
    <figure className={css.pane} style={{ margin: 0 }}>
      <div ref={box} className={css.view} onPointerMove={drag} onClick={mark} onWheel={(e) => setView((v) => ({ ...v, zoom: Math.min(40, Math.max(0.2, v.zoom * (e.deltaY < 0 ? 1.12 : 0.9))) }))} style={marks ? { cursor: "crosshair" } : undefined}>
        <img src={pictureOf(photo.id)} alt={photo.caption || `photograph by ${photo.who}`} draggable={false} width={photo.width} height={photo.height} style={{ transform: `translate(${String(left)}px, ${String(top)}px) scale(${String(k)})` }} />
        {photo.scale !== null && <ScaleBar pixels={k / photo.scale} />}
        {marks && (
          <svg style={{ position: "absolute", inset: 0, pointerEvents: "none" }} width="100%" height="100%" aria-hidden="true">
            {marks.map((m, i) => (
              <circle key={i} cx={left + m.x * k} cy={top + m.y * k} r="5" fill="none" stroke="var(--accent)" strokeWidth="2" />
            ))}
          </svg>
        )}
      </div>
      <figcaption>
        <strong>{capital(item.what)}</strong>
        {item.changes.length > 0 && <span> · {item.changes.map(chip).join(" · ")}</span>}
        <div>{item.material}</div>
        {photo.caption && <span>“{photo.caption}” </span>}
        <span className="soft">by {photo.who}, {atMinute(photo.added_at)}</span>{" "}
        {marks ? <Measure photo={photo} marks={marks} onDone={() => setMarks(null)} /> : <Button size="compact-sm" variant="subtle" onClick={() => setMarks([])}>{photo.scale === null ? "measure its scale" : `scale ${short(photo.scale * 1000)} µm a pixel`}</Button>}
        <Button size="compact-sm" variant="subtle" aria-label={`Remove ${item.what}`} onClick={onRemove}>
          Remove
        </Button>
      </figcaption>
    </figure>
  );
}

/** A bar of a round length, as long on the screen as it is in the picture. */
function ScaleBar({ pixels }: { pixels: number }) {
  const length = [0.5, 1, 2, 5, 10, 20, 50, 100].findLast((l) => l * pixels <= 140) ?? 0.5;
  return (
    <span className={css.scale}>
      {length} mm
      <i style={{ width: length * pixels }} />
    </span>
  );
}

/** Two clicks on a mark of known length give the scale of a picture. */
function Measure({ photo, marks, onDone }: { photo: Photo; marks: { x: number; y: number }[]; onDone: () => void }) {
  const [length, setLength] = useState<number | null | undefined>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const queries = useQueryClient();
  const [a, b] = marks;
  if (!a || !b) return <span role="status">Click {a ? "the other end" : "one end"} of something of known length.</span>;
  const keep = async () => {
    try {
      const scale = (length ?? 0) / Math.hypot(a.x - b.x, a.y - b.y);
      unwrap<Photo>(await client.PATCH("/api/photos/{photo_id}", { params: { path: { photo_id: photo.id }, header: { "if-match": `"${String(photo.revision)}"` } }, body: { scale } }));
      refresh(queries, "/api/light-table", "/api/photos");
      onDone();
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <form
      style={{ display: "inline-flex", gap: 6, alignItems: "end" }}
      onSubmit={(e) => {
        e.preventDefault();
        if (length != null) void keep();
      }}
    >
      <NumberEntry size="xs" w={120} label="it is, mm" autoFocus min={0.01} max={2000} value={length} onChange={setLength} />
      <Button size="xs" type="submit" disabled={!(length != null)}>
        Keep
      </Button>
      <Button size="xs" variant="subtle" onClick={onDone}>
        Cancel
      </Button>
      <Refusal text={problem} />
    </form>
  );
}
