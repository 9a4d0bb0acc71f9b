import type { PartProps } from "../parts";
import { Spot, Stage, valueOf } from "../Stage";

const HIGH = 176;
const [LEFT, RIGHT, BASE, TOP] = [250, 860, 156, 26];

/** What a piece bears, as its course of load over deflection: the entries stand where they belong on it. */
export function UsePart(part: PartProps) {
  if (part.recording.name || part.dimensionsOnly) return null;
  const field = (name: string) => part.step.fields.find((f) => f.name === name);
  const [peak, load, deflection, residual] = ["peak_force", "load", "deflection", "residual"].map(field);
  const top = peak ?? load;
  // with a greatest load of its own, load and deflection are a point on the way up
  const way = peak && load ? 0.62 : 1;
  const at = { x: LEFT + way * 0.72 * (RIGHT - LEFT), y: BASE - way * (BASE - TOP - 20) };
  const stays = residual ? valueOf(part, residual.name) : null;
  const drawing = (
    <>
      <path d={`M${String(LEFT)} ${String(TOP - 18)}V${String(BASE)}H${String(RIGHT + 40)}`} fill="none" stroke="var(--ink)" strokeWidth="2" />
      <path d={`M${String(LEFT)} ${String(BASE)}L${String(at.x)} ${String(at.y)}${way < 1 ? `Q${String(LEFT + 0.86 * (RIGHT - LEFT))} ${String(TOP + 6)} ${String(RIGHT)} ${String(TOP + 30)}` : ""}`} fill="none" stroke="var(--accent)" strokeWidth="3.5" />
      {residual && <path d={`M${String(at.x)} ${String(at.y)}Q${String((at.x + LEFT) / 2 + 60)} ${String(BASE - 30)} ${String(LEFT + 90)} ${String(BASE)}`} fill="none" stroke="var(--soft)" strokeWidth="2" strokeDasharray={stays === null ? "5 6" : undefined} />}
      <path d={`M${String(LEFT)} ${String(at.y)}H${String(at.x)}V${String(BASE)}`} fill="none" stroke="var(--line)" strokeWidth="1.5" strokeDasharray="4 5" />
      <circle cx={at.x} cy={at.y} r="6" fill="var(--accent)" />
      <text x={LEFT - 8} y={TOP - 8} textAnchor="end" fontSize="15" fill="var(--soft)">
        load
      </text>
      <text x={RIGHT + 48} y={BASE + 6} fontSize="15" fill="var(--soft)">
        deflection
      </text>
    </>
  );
  return (
    <Stage height={HIGH} label="Load over deflection, up to where it gave" drawing={drawing}>
      {top && <Spot part={part} field={top} x={peak && load ? 960 : 120} y={peak && load ? TOP + 34 : at.y} height={HIGH} />}
      {peak && load && <Spot part={part} field={load} x={120} y={at.y} height={HIGH} />}
      {deflection && <Spot part={part} field={deflection} x={at.x + 106} y={(at.y + BASE) / 2 + 14} height={HIGH} />}
      {residual && <Spot part={part} field={residual} x={LEFT + 150} y={BASE - 44} height={HIGH} />}
    </Stage>
  );
}
