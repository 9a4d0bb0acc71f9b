import type { PartProps } from "../parts";
import { Spot, Stage, STAGE, valueOf } from "../Stage";

const HIGH = 330;
const [LEFT, RIGHT] = [330, 770];
const [BACK, FRONT] = [60, 150];
/** Corners in the order they are walked round: front left, front right, back right, back left. */
const CORNERS = [
  { x: LEFT, y: FRONT, at: -1, words: "1 front left" },
  { x: RIGHT, y: FRONT, at: 1, words: "2 front right" },
  { x: RIGHT, y: BACK, at: 1, words: "3 back right" },
  { x: LEFT, y: BACK, at: -1, words: "4 back left" },
] as const;

/** The piece from above with an entry at each corner; below, how it stands up from the plane, much enlarged. */
export function CornersPart(part: PartProps) {
  const field = part.step.fields[0];
  if (!field) return null;
  const lifts = CORNERS.map((_, i) => valueOf(part, field.name, i));
  const frame = part.test.shape.family === "square frame";
  const held = part.test.protocol["one_end_held"] === 1;
  return (
    <Stage height={HIGH} label={`${part.test.shape.label}, its corners`} drawing={<Lifted lifts={lifts} frame={frame} held={held} />}>
      {CORNERS.map((c, i) => (
        <Spot key={c.words} part={part} field={field} position={i} x={c.x + c.at * 150} y={c.y + (c.y === BACK ? -2 : 20)} height={HIGH}>
          {c.words}
        </Spot>
      ))}
    </Stage>
  );
}

function Lifted({ lifts, frame, held }: { lifts: readonly (number | null)[]; frame: boolean; held: boolean }) {
  const known = lifts.filter((v) => v !== null);
  const greatest = Math.max(0.2, ...known.map(Math.abs));
  const scale = 46 / greatest;
  const base = 276;
  const side = (i: number, j: number) => {
    const own = [lifts[i], lifts[j]].filter((v) => v !== null && v !== undefined);
    return own.length ? own.reduce((a, b) => a + b, 0) / own.length : 0;
  };
  const [left, right] = [side(0, 3), side(1, 2)];
  const middle = STAGE / 2;
  return (
    <>
      <path d={`M${LEFT} ${BACK}H${RIGHT}V${FRONT}H${LEFT}Z${frame ? `M${LEFT + 60} ${BACK + 24}H${RIGHT - 60}V${FRONT - 24}H${LEFT + 60}Z` : ""}`} fill="var(--surface)" stroke="var(--ink)" strokeWidth="2" fillRule="evenodd" data-testid="outline" />
      {CORNERS.map((c, i) => {
        const v = lifts[i];
        const up = (v ?? 0) >= 0;
        return (
          <g key={c.words} transform={`translate(${c.x} ${c.y})`} data-lift={v ?? ""}>
            <circle r="8" fill={v === null || v === undefined ? "var(--surface)" : "var(--accent)"} stroke="var(--accent)" strokeWidth="2" />
            {v !== null && v !== undefined && v !== 0 && <path d={up ? "M0 -14V-34m-6 9l6 -9l6 9" : "M0 14V34m-6 -9l6 9l6 -9"} stroke={up ? "var(--worse)" : "var(--better)"} strokeWidth="2.5" fill="none" />}
          </g>
        );
      })}
      <path d={`M${LEFT - 120} ${base}H${RIGHT + 120}`} stroke="var(--line)" strokeWidth="2" />
      <path d={`M${LEFT} ${base - left * scale}Q${middle} ${base + (Math.max(left, right, 0) > 0 ? 0 : -Math.min(left, right) * scale)} ${RIGHT} ${base - right * scale}`} fill="none" stroke="var(--ink)" strokeWidth="5" strokeLinecap="round" />
      {held && <path d={`M${LEFT - 14} ${base - 16}h28v12h-28z`} fill="var(--soft)" />}
      <text x={middle} y={base + 36} textAnchor="middle" fontSize="15" fill="var(--soft)">
        from the front, lift enlarged{held ? ", one end held down" : ""} · upwards positive, downwards with −
      </text>
    </>
  );
}
