import { Button, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { messageOf, type Schemas } from "../../api/client";
import { shapeSheetOptions, shapesOptions } from "../../api/queries/printing";
import { ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { pathOf, placed, spanOf } from "../../figures/drawings/outlines";
import { size } from "../../figures/drawings/sizes";
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
      <p>
        <Link to="/rigs/parts">Parts of your own</Link> <span className="soft">come from an STL or 3MF file.</span>
      </p>
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
          <Button size="compact-sm" variant="subtle" onClick={() => setOwn({})}>
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
              size="compact-sm"
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

const [W, H] = [300, 170];
const ROOM = { x: 8, y: 24, w: W - 70, h: H - 34 };

/** From above and, below it, from the side, with what it takes along each; both to one scale. */
function Outline({ shape }: { shape: Shape }) {
  const [top, side] = [spanOf(shape.top), spanOf(shape.side)];
  const [long, wide, high] = [top.u[1] - top.u[0], top.v[1] - top.v[0], side.v[1] - side.v[0]];
  const gap = 14;
  const scale = Math.min(ROOM.w / long, (ROOM.h - gap) / (wide + high));
  const left = ROOM.x + (ROOM.w - long * scale) / 2;
  const upper = ROOM.y + wide * scale;
  const views = [
    { loops: shape.top, at: placed(top, left, upper, scale).at, low: upper, tall: wide },
    { loops: shape.side, at: placed(side, left, upper + gap + high * scale, scale).at, low: upper + gap + high * scale, tall: high },
  ];
  const right = left + long * scale;
  const above = upper - wide * scale - 8;
  return (
    <svg viewBox={`0 0 ${String(W)} ${(upper + gap + high * scale + 8).toFixed(1)}`} role="img" aria-label={`${shape.label} from above and from the side`}>
      {views.map((v, i) => (
        <g key={i}>
          <path d={pathOf(v.loops, v.at)} fill="var(--raised)" stroke="var(--ink)" strokeWidth="1.2" fillRule="evenodd" />
          <path d={`M${right + 5} ${v.low - v.tall * scale}h6m-3 0V${v.low}m-3 0h6`} stroke="var(--soft)" fill="none" />
          <text x={right + 14} y={v.low - (v.tall * scale) / 2 + 4} fontSize="11" fill="var(--ink)">
            {size(v.tall)}
          </text>
        </g>
      ))}
      <path d={`M${left} ${above - 3}v6m0 -3H${right}m0 -3v6`} stroke="var(--soft)" fill="none" />
      <text x={(left + right) / 2} y={above - 4} fontSize="11" fill="var(--ink)" textAnchor="middle">
        {size(long)}
      </text>
    </svg>
  );
}
