import { scale } from "../../figures/scale";
import { short, tickLabel, ticks } from "../../ui/format";
import css from "../capture.module.css";
import { type PartProps, unitOf } from "../parts";
import { Place } from "../Place";
import { Spot, Stage, valueOf } from "../Stage";
import { rowsOf } from "./rows";

const HIGH = 250;
const [LEFT, RIGHT, TOP, BASE] = [330, 1060, 22, 200];

/** One temperature going up and what the bar does in it: seen by eye, or reading by reading, or a file. */
export function RampPart(part: PartProps) {
  const { step } = part;
  if (part.recording.name || part.dimensionsOnly) return null;
  const [temperature, sag] = [step.fields.at(-2), step.fields.at(-1)];
  const seen = step.fields.filter((f) => f.usual > 0 && f !== temperature && f !== sag);
  if (!temperature || !sag) return null;
  const rows = rowsOf(part.entry, temperature.name, sag.name);
  const pairs = Array.from({ length: rows }, (_, i) => [valueOf(part, temperature.name, i), valueOf(part, sag.name, i)] as const).filter((p): p is readonly [number, number] => p[0] !== null && p[1] !== null);
  const every = part.rig?.geometry["noticed_step"];
  const events = seen.flatMap((f) => {
    const at = valueOf(part, f.name);
    return at === null ? [] : [{ at, words: f.label }];
  });
  return (
    <>
      <Stage height={HIGH} label="Sag over temperature" drawing={<Course pairs={pairs} events={events} unit={unitOf(part.rig, temperature)} length={unitOf(part.rig, sag)} />}>
        {seen.map((f, i) => (
          <Spot key={f.name} part={part} field={f} x={150} y={62 + 84 * i} height={HIGH} />
        ))}
        {seen.length > 0 && every !== undefined && (
          <p className={css.habit}>
            looked every {short(every)} {unitOf(part.rig, temperature)}: the onset is half a step before it is seen
          </p>
        )}
      </Stage>
      <div className={css.log} role="group" aria-label="readings of the ramp">
        <span className="soft">{seen.length ? "or the readings of the ramp:" : "readings of the ramp:"}</span>
        {Array.from({ length: rows }, (_, i) => (
          <div key={i} className={css.pair}>
            <Place part={part} field={temperature} position={i}>
              {null}
            </Place>
            <Place part={part} field={sag} position={i}>
              {null}
            </Place>
          </div>
        ))}
      </div>
    </>
  );
}

function Course({ pairs, events, unit, length }: { pairs: readonly (readonly [number, number])[]; events: readonly { at: number; words: string }[]; unit: string; length: string }) {
  const warm = [...pairs.map((p) => p[0]), ...events.map((e) => e.at)];
  const x = scale([Math.min(20, ...warm), Math.max(100, ...warm) + 5], LEFT, RIGHT);
  const y = scale([Math.min(0, ...pairs.map((p) => p[1])), Math.max(0.5, ...pairs.map((p) => p[1]))], TOP, BASE);
  const marks = ticks(x.domain[0], x.domain[1], 8);
  const heights = ticks(y.domain[0], y.domain[1], 3);
  return (
    <>
      <path d={`M${String(LEFT)} ${String(TOP - 6)}V${String(BASE)}H${String(RIGHT)}`} fill="none" stroke="var(--ink)" strokeWidth="1.6" />
      {marks.map((t) => (
        <text key={t} x={x(t)} y={BASE + 22} textAnchor="middle" fontSize="15" fill="var(--soft)">
          {tickLabel(t, marks)}
        </text>
      ))}
      {heights.map((t) => (
        <text key={t} x={LEFT - 8} y={y(t) + 5} textAnchor="end" fontSize="15" fill="var(--soft)">
          {tickLabel(t, heights)}
        </text>
      ))}
      <text x={(LEFT + RIGHT) / 2} y={HIGH - 6} textAnchor="middle" fontSize="16" fill="var(--soft)">
        temperature, {unit}
      </text>
      <text x={LEFT + 10} y={TOP + 2} fontSize="15" fill="var(--soft)">
        sag downwards, {length}
      </text>
      <path d={pairs.map(([t, s], i) => `${i ? "L" : "M"}${x(t).toFixed(1)} ${y(s).toFixed(1)}`).join("")} fill="none" stroke="var(--accent)" strokeWidth="2.5" />
      {pairs.map(([t, s]) => (
        <circle key={`${String(t)}-${String(s)}`} cx={x(t)} cy={y(s)} r="4.5" fill="var(--accent)" />
      ))}
      {events.map((e) => (
        <g key={e.words} stroke="var(--worse)">
          <path d={`M${String(x(e.at))} ${String(TOP)}V${String(BASE)}`} strokeWidth="2" strokeDasharray="5 5" />
          <text x={x(e.at) + 6} y={TOP + 14} fontSize="15" fill="var(--worse)" stroke="none">
            {e.words}
          </text>
        </g>
      ))}
    </>
  );
}
