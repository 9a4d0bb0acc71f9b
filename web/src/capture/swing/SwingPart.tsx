import { short } from "../../ui/format";
import type { PartProps } from "../parts";
import { Spot, Stage, STAGE, valueOf } from "../Stage";

const HIGH = 206;
const [PIVOT_X, PIVOT_Y, ARM] = [STAGE / 2, 92, 88];
/** Half width of the drawing's arc where the rig's release is given as a height: its angle is not known. */
const USUAL = 128;

/** Where the hammer was let go and how far it rose on the other side, on the pendulum's arc; or the energy that it shows. */
export function SwingPart(part: PartProps) {
  const geometry = part.rig?.geometry ?? {};
  const release = geometry["release_angle"] ?? USUAL;
  const rose = valueOf(part, "rise_angle");
  const shown = shownFields(part);
  const own = shown.length;
  const words = [
    geometry["release_angle"] !== undefined && `let go at ${short(geometry["release_angle"])}°`,
    geometry["release_height"] !== undefined && `let go from ${short(geometry["release_height"])} m`,
    geometry["hammer_mass"] !== undefined && `hammer ${short(geometry["hammer_mass"])} kg${geometry["radius"] === undefined ? "" : ` at ${short(geometry["radius"])} m`}`,
    geometry["loss"] !== undefined && `empty swing takes ${short(geometry["loss"])} J${geometry["loss_subtracted"] ? ", taken off by the display" : ""}`,
  ].filter(Boolean);
  const drawing = (
    <>
      <path d={`M${end(-release)}A${String(ARM)} ${String(ARM)} 0 0 0 ${end(0)}`} fill="none" stroke="var(--line)" strokeWidth="2" strokeDasharray="5 6" />
      <path d={`M${end(0)}A${String(ARM)} ${String(ARM)} 0 0 0 ${end(rose === null ? 90 : Math.min(rose, 170))}`} fill="none" stroke="var(--accent)" strokeWidth="3" strokeDasharray={rose === null ? "5 6" : undefined} />
      <Hammer angle={-release} ghost />
      <Hammer angle={rose === null ? 60 : Math.min(rose, 170)} ghost={rose === null} />
      <path d={`M${String(PIVOT_X - 10)} ${String(PIVOT_Y + ARM - 14)}h20v30h-20z`} fill="var(--surface)" stroke="var(--ink)" strokeWidth="2" />
      <path d={`M${String(PIVOT_X - 10)} ${String(PIVOT_Y + ARM - 4)}l6 4l-6 4`} fill="var(--ground)" stroke="var(--ink)" strokeWidth="2" />
      <circle cx={PIVOT_X} cy={PIVOT_Y} r="6" fill="var(--ink)" />
      {words.map((w, i) => (
        <text key={String(w)} x="16" y={HIGH / 2 - 16 + 22 * i} fontSize="15" fill="var(--soft)">
          {w}
        </text>
      ))}
      {!words.length && (
        <text x="16" y={HIGH / 2} fontSize="15" fill="var(--soft)">
          The rig says nothing of its hammer.
        </text>
      )}
    </>
  );
  return (
    <Stage height={HIGH} label="The pendulum: where it was let go, and how far it rose" drawing={drawing}>
      {shown.map((field, i) => (
        <Spot key={field.name} part={part} field={field} x={860} y={(own === 1 ? 110 : 40) + 72 * i} height={HIGH} />
      ))}
    </Stage>
  );
}

/** Of the three ways to read a swing, the one that this rig shows; all three where it shows none. */
export function shownFields(part: Pick<PartProps, "step" | "rig">) {
  const readable = part.step.fields.filter((f) => f.from_rig === null);
  const own = readable.filter((f) => (part.rig?.channels ?? []).some((c) => c.name === f.channel));
  return own.length ? own : readable;
}

const point = (angle: number, arm = ARM) => {
  const a = (angle * Math.PI) / 180;
  return { x: PIVOT_X + arm * Math.sin(a), y: PIVOT_Y + arm * Math.cos(a) };
};
const end = (angle: number) => `${point(angle).x.toFixed(1)} ${point(angle).y.toFixed(1)}`;

function Hammer({ angle, ghost }: { angle: number; ghost: boolean }) {
  const p = point(angle);
  return (
    <g stroke={ghost ? "var(--soft)" : "var(--accent)"} strokeWidth="2.5" fill={ghost ? "var(--raised)" : "var(--accent)"} strokeDasharray={ghost ? "4 4" : undefined}>
      <path d={`M${String(PIVOT_X)} ${String(PIVOT_Y)}L${end(angle)}`} />
      <g transform={`translate(${p.x.toFixed(1)} ${p.y.toFixed(1)}) rotate(${(-angle).toFixed(1)})`}>
        <path d="M-13 -9H13L9 10H-9Z" />
      </g>
    </g>
  );
}
