import { Button, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { messageOf, type Schemas } from "../../api/client";
import { shapeSheetOptions, shapesOptions } from "../../api/queries/printing";
import { ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { readNumber } from "../../ui/number";
import css from "./printing.module.css";
import { numberOf, sizeQuery, sizesTold } from "./sizes";

type Shape = Schemas["ShapeSheet"];

/** Every specimen shape from above and from the side, with its lengths, and its solid as it stands on the bed. */
export function ShapesPage() {
  const shapes = useQuery(shapesOptions());
  if (shapes.isPending) return <Waiting what="Drawing the shapes …" />;
  if (shapes.isError) return <ErrorNote error={shapes.error} again={() => void shapes.refetch()} />;
  return (
    <div className="page">
      <h1>Shapes</h1>
      <p className="soft">Solids in millimetres, as they stand on the bed. The same from the command line: assayer shapes NAME --size width=6 --number 3 -o FILE.</p>
      <ul className={css.shapes}>
        {shapes.data.items.map((s) => (
          <li key={s.name}>
            <Card plain={s} />
          </li>
        ))}
      </ul>
    </div>
  );
}

/** One shape: as it is delivered, or in sizes of one's own and with a number sunk into it. */
function Card({ plain }: { plain: Shape }) {
  const [own, setOwn] = useState<Record<string, string> | null>(null);
  const [number, setNumber] = useState("");
  const [told] = useDebouncedValue(sizesTold(plain.dimensions, own ?? {}), 300);
  const changed = told !== null && told.length > 0;
  const asked = useQuery({ ...shapeSheetOptions(plain.name, told ?? []), enabled: changed, retry: false });
  const shape = changed && asked.data ? asked.data : plain;
  const problem = changed && asked.isError ? messageOf(asked.error) : null;
  const sunk = numberOf(number);
  const query = sizeQuery(told ?? [], sunk);
  return (
    <>
      <Outline shape={shape} />
      <h2>{shape.label}</h2>
      {own === null ? (
        <p className="soft">
          {Object.entries(shape.dimensions)
            .filter(([, value]) => value > 0)
            .map(([name, value]) => `${name.replaceAll("_", " ")} ${String(value)}${name === "angle" ? "°" : ""}`)
            .join(" · ")}
          {" mm · "}
          {shape.volume.toFixed(2)} cm³{" "}
          <Button size="compact-xs" variant="subtle" onClick={() => setOwn({})}>
            sizes of my own
          </Button>
        </p>
      ) : (
        <div className={css.sizes}>
          {Object.entries(plain.dimensions).map(([name, value]) => (
            <TextInput
              key={name}
              size="xs"
              label={`${name.replaceAll("_", " ")}${name === "angle" ? ", °" : ""}`}
              aria-label={`${plain.label}: ${name.replaceAll("_", " ")}`}
              placeholder={String(value)}
              inputMode="decimal"
              value={own[name] ?? ""}
              error={readNumber(own[name] ?? "") === undefined}
              onChange={(e) => setOwn({ ...own, [name]: e.currentTarget.value })}
            />
          ))}
          {plain.numbered && <TextInput size="xs" label="number" aria-label={`${plain.label}: number`} placeholder="none" inputMode="numeric" value={number} error={sunk === undefined} onChange={(e) => setNumber(e.currentTarget.value)} />}
          <span className="soft">
            {shape.volume.toFixed(2)} cm³{" "}
            <Button
              size="compact-xs"
              variant="subtle"
              onClick={() => {
                setOwn(null);
                setNumber("");
              }}
            >
              as delivered
            </Button>
          </span>
        </div>
      )}
      <Refusal text={problem} />
      {problem === null && told !== null && (
        <Files shape={shape} query={query} drawing={sizeQuery(told, null)} />
      )}
    </>
  );
}

/** The solid in every way it stands, and the drawing. */
function Files({ shape, query, drawing }: { shape: Shape; query: string; drawing: string }) {
  return (
    <ul className={css.standings}>
      {shape.standings
        .filter((o) => o.stands)
        .map((o) => (
          <li key={o.orientation}>
            <span>
              {o.orientation}
              <span className="soft">
                {o.brim && ", brim"}
                {o.supports && ", supports"}
              </span>
            </span>
            <Take shape={shape} orientation={o.orientation} kind="3mf" query={query} />
            <Take shape={shape} orientation={o.orientation} kind="stl" query={query} />
          </li>
        ))}
      <li>
        <span>drawing</span>
        <Take shape={shape} orientation="flat" kind="svg" query={drawing} />
      </li>
    </ul>
  );
}

function Take({ shape, orientation, kind, query }: { shape: Shape; orientation: string; kind: "3mf" | "stl" | "svg"; query: string }) {
  return (
    <a href={`/api/shapes/${shape.name}/solid.${kind}?orientation=${encodeURIComponent(orientation)}${query}`} download aria-label={`${shape.label}, ${orientation}, as ${kind.toUpperCase()}`}>
      {kind.toUpperCase()}
    </a>
  );
}

const W = 300;
const H = 150;

/** From above and, below it, from the side; both to one scale. */
function Outline({ shape }: { shape: Shape }) {
  const all = (loops: Shape["top"]) => loops.flat();
  const span = (points: readonly (readonly number[])[], axis: number) => {
    const values = points.map((p) => p[axis] ?? 0);
    return [Math.min(...values), Math.max(...values)] as const;
  };
  const [x0, x1] = span(all(shape.top), 0);
  const [y0, y1] = span(all(shape.top), 1);
  const [z0, z1] = span(all(shape.side), 1);
  const gap = 12;
  const scale = Math.min((W - 20) / (x1 - x0), (H - 20 - gap) / (y1 - y0 + z1 - z0));
  const path = (loops: Shape["top"], high: number, at: number) =>
    loops.map((loop) => `M${loop.map(([x, y]) => `${(W / 2 + (x - (x0 + x1) / 2) * scale).toFixed(2)} ${(at + (high - y) * scale).toFixed(2)}`).join("L")}Z`).join("");
  const top = (H - gap - (y1 - y0 + z1 - z0) * scale) / 2;
  return (
    <svg viewBox={`0 0 ${String(W)} ${String(H)}`} role="img" aria-label={`${shape.label} from above and from the side`}>
      <g fill="var(--raised)" stroke="var(--ink)" strokeWidth="1.2" fillRule="evenodd">
        <path d={path(shape.top, y1, top)} />
        <path d={path(shape.side, z1, top + (y1 - y0) * scale + gap)} />
      </g>
    </svg>
  );
}
