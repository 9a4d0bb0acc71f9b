import { useQuery } from "@tanstack/react-query";

import type { Schemas } from "../../api/client";
import { shapesOptions } from "../../api/queries/printing";
import { ErrorNote, Waiting } from "../../ui/Notes";
import css from "./printing.module.css";

type Shape = Schemas["ShapeSheet"];

/** Every specimen shape from above and from the side, with its lengths, and its solid as it stands on the bed. */
export function ShapesPage() {
  const shapes = useQuery(shapesOptions());
  if (shapes.isPending) return <Waiting what="Drawing the shapes …" />;
  if (shapes.isError) return <ErrorNote error={shapes.error} again={() => void shapes.refetch()} />;
  return (
    <div className="page">
      <h1>Shapes</h1>
      <p className="soft">Solids in millimetres, as they stand on the bed. Sizes of your own and numbers sunk into the ends: assayer shapes NAME --size width=6 --number 3 -o FILE.</p>
      <ul className={css.shapes}>
        {shapes.data.items.map((s) => (
          <li key={s.name}>
            <Outline shape={s} />
            <h2>{s.label}</h2>
            <p className="soft">
              {Object.entries(s.dimensions)
                .filter(([, value]) => value > 0)
                .map(([name, value]) => `${name.replaceAll("_", " ")} ${String(value)}${name === "angle" ? "°" : ""}`)
                .join(" · ")}
              {" mm · "}
              {s.volume.toFixed(2)} cm³
            </p>
            <ul className={css.standings}>
              {s.standings
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
                    <Take shape={s} orientation={o.orientation} kind="3mf" />
                    <Take shape={s} orientation={o.orientation} kind="stl" />
                  </li>
                ))}
              <li>
                <span>drawing</span>
                <Take shape={s} orientation="flat" kind="svg" />
              </li>
            </ul>
          </li>
        ))}
      </ul>
    </div>
  );
}

function Take({ shape, orientation, kind }: { shape: Shape; orientation: string; kind: "3mf" | "stl" | "svg" }) {
  return (
    <a href={`/api/shapes/${shape.name}/solid.${kind}?orientation=${encodeURIComponent(orientation)}`} download aria-label={`${shape.label}, ${orientation}, as ${kind.toUpperCase()}`}>
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
