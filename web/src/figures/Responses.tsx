import { figure, tickLabel, ticks } from "../ui/format";
import { domainOf, domainWith, scale } from "./scale";

export interface Response {
  title: string;
  unit: string;
  /** Which side is better; anything else marks no best level. */
  goodSide: string;
  points: readonly { x: number; mean: number; ci95: readonly [number, number] | null }[];
}

interface ResponsesProps {
  responses: readonly Response[];
  /** Name and unit of what was varied. */
  setting: string;
}

const WIDTH = 300;
const HEIGHT = 190;
const BOX = { left: 54, right: 12, top: 30, bottom: 40 };

/** Several responses against one setting, each on its own scale, the best level of each filled. */
export function Responses({ responses, setting }: ResponsesProps) {
  // the same levels below one another: not every response was measured at each
  const levels = responses.flatMap((r) => r.points.map((p) => p.x));
  const columns = Math.min(3, responses.length);
  const rows = Math.ceil(responses.length / columns);
  const words = responses.map((r) => `${r.title}: ${r.points.map((p) => `${figure(p.mean, p.ci95)} at ${String(p.x)}`).join(", ")}`).join("; ");
  return (
    <svg viewBox={`0 0 ${String(columns * WIDTH)} ${String(rows * HEIGHT)}`} width="100%" style={{ maxWidth: columns * WIDTH, minWidth: Math.min(columns, 2) * WIDTH, display: "block" }} role="img" aria-label={`Responses over ${setting}. ${words}`} fontFamily="var(--sans)">
      {responses.map((r, i) => (
        <g key={r.title} transform={`translate(${String((i % columns) * WIDTH)} ${String(Math.floor(i / columns) * HEIGHT)})`}>
          <Panel response={r} setting={setting} levels={levels} />
        </g>
      ))}
    </svg>
  );
}

function Panel({ response: r, setting, levels }: { response: Response; setting: string; levels: readonly number[] }) {
  const x = scale(domainOf(levels, 0.08), BOX.left, WIDTH - BOX.right);
  const y = scale(domainWith(r.points.map((p) => p.mean), r.points.flatMap((p) => (p.ci95 ? [p.ci95] : []))), HEIGHT - BOX.bottom, BOX.top);
  const [up, along] = [ticks(y.domain[0], y.domain[1], 3), ticks(x.domain[0], x.domain[1], 4)];
  const within = (v: number) => y(Math.min(y.domain[1], Math.max(y.domain[0], v)));
  const best = bestOf(r);
  return (
    <>
      <text x={8} y={18} fontSize="13.5" fontWeight="650" fill="var(--ink)">
        {r.title.length > 34 ? `${r.title.slice(0, 33)}…` : r.title}
        <title>{r.title}</title>
      </text>
      {up.map((t) => (
        <g key={t}>
          <line x1={BOX.left} x2={WIDTH - BOX.right} y1={y(t)} y2={y(t)} stroke="var(--line)" />
          <text x={BOX.left - 7} y={y(t) + 4} textAnchor="end" fontSize="12" fontFamily="var(--mono)" fill="var(--soft)">
            {tickLabel(t, up)}
          </text>
        </g>
      ))}
      <polyline points={r.points.map((p) => `${String(x(p.x))},${String(y(p.mean))}`).join(" ")} fill="none" stroke="var(--soft)" strokeWidth="1.5" />
      {r.points.map((p) => (
        <g key={p.x}>
          {p.ci95 && <line x1={x(p.x)} x2={x(p.x)} y1={within(p.ci95[0])} y2={within(p.ci95[1])} stroke="var(--ink)" strokeWidth="2" />}
          {p.ci95 && p.ci95[1] > y.domain[1] && <path d={`M${String(x(p.x))} ${String(BOX.top - 2)}l5 8h-10Z`} fill="var(--ink)" />}
          {p.ci95 && p.ci95[0] < y.domain[0] && <path d={`M${String(x(p.x))} ${String(HEIGHT - BOX.bottom + 2)}l5 -8h-10Z`} fill="var(--ink)" />}
          <circle cx={x(p.x)} cy={y(p.mean)} r="5.5" fill={p.x === best ? "var(--accent)" : "var(--ground)"} stroke={p.x === best ? "var(--accent)" : "var(--ink)"} strokeWidth="1.5" />
        </g>
      ))}
      {along.map((t) => (
        <text key={t} x={x(t)} y={HEIGHT - BOX.bottom + 16} textAnchor="middle" fontSize="12" fontFamily="var(--mono)" fill="var(--soft)">
          {tickLabel(t, along)}
        </text>
      ))}
      <text x={(BOX.left + WIDTH - BOX.right) / 2} y={HEIGHT - 8} textAnchor="middle" fontSize="12.5" fill="var(--soft)">
        {setting}
      </text>
      <text transform={`translate(12 ${String((HEIGHT - BOX.bottom + BOX.top) / 2)}) rotate(-90)`} textAnchor="middle" fontSize="12" fill="var(--soft)">
        {r.unit}
      </text>
    </>
  );
}

/** The level with the best mean; null where neither side is better, or several share it. */
function bestOf(r: Response): number | null {
  if (r.goodSide !== "higher" && r.goodSide !== "lower") return null;
  const sign = r.goodSide === "higher" ? 1 : -1;
  const best = Math.max(...r.points.map((p) => sign * p.mean));
  const levels = r.points.filter((p) => sign * p.mean === best);
  return levels.length === 1 ? (levels[0]?.x ?? null) : null;
}
