import { short } from "../../ui/format";
import type { PartProps } from "../parts";
import { Spot, Stage, STAGE, valueOf } from "../Stage";

const HIGH = 216;
const [X, Y, R] = [STAGE / 2, 98, 66];

/** The end of the rod seen along its axis: the set angle, the greatest torque, and where it gave. */
export function TwistPart(part: PartProps) {
  const [atAngle, greatest, broke] = part.step.fields;
  if (!atAngle || !greatest || !broke || part.recording.name || part.dimensionsOnly) return null;
  const set = Number(part.test.protocol["set_angle"] ?? 45);
  const end = valueOf(part, broke.name);
  const turns = end === null ? 0 : Math.floor(end / 360);
  const drawing = (
    <>
      <path d={hexagon(R + 20)} fill="none" stroke="var(--line)" strokeWidth="2" />
      <circle cx={X} cy={Y} r={R} fill="var(--surface)" stroke="var(--ink)" strokeWidth="2" />
      <path d={`M${String(X)} ${String(Y)}V${String(Y - R)}`} stroke="var(--soft)" strokeWidth="2" strokeDasharray="4 4" />
      <path d={`M${String(X)} ${String(Y)}L${on(set, R)}`} stroke="var(--accent)" strokeWidth="3" />
      <path d={`M${on(0, R * 0.55)}A${String(R * 0.55)} ${String(R * 0.55)} 0 ${set % 360 > 180 ? "1" : "0"} 1 ${on(set, R * 0.55)}`} fill="none" stroke="var(--accent)" strokeWidth="2" />
      {end !== null && <path d={`M${String(X)} ${String(Y)}L${on(end, R)}`} stroke="var(--worse)" strokeWidth="3" />}
      <text x={X} y={HIGH - 4} textAnchor="middle" fontSize="15" fill="var(--soft)">
        {`set angle ${short(set)}°`}
        {end !== null && ` · broke at ${short(end)}°${turns ? `, ${String(turns)} ${turns === 1 ? "turn" : "turns"} and ${short(end - 360 * turns)}°` : ""}`}
      </text>
    </>
  );
  return (
    <Stage height={HIGH} label="The rod twisted, seen along its axis" drawing={drawing}>
      <Spot part={part} field={atAngle} x={270} y={100} height={HIGH}>
        torque at {short(set)}°
      </Spot>
      <Spot part={part} field={greatest} x={830} y={70} height={HIGH} />
      <Spot part={part} field={broke} x={830} y={150} height={HIGH} />
    </Stage>
  );
}

const on = (angle: number, r: number) => {
  const a = (angle * Math.PI) / 180;
  return `${(X + r * Math.sin(a)).toFixed(1)} ${(Y - r * Math.cos(a)).toFixed(1)}`;
};
const hexagon = (r: number) => `M${[0, 60, 120, 180, 240, 300].map((a) => on(a + 30, r)).join("L")}Z`;
