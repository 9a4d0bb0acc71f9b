import { Arrows, Dimension, type DrawingProps } from "./Drawing";
import { bar, H, MID } from "./geometry";
import { size } from "./sizes";

/** A bar with its notch in the middle of the upper side, drawn large enough to see. */
export function NotchedBar({ shape, arrows = true, dimensioned = false, crop, doubted }: DrawingProps) {
  const g = bar();
  const { left, right } = g.ends;
  const d = shape.dimensions;
  const mid = g.columns[1] ?? (left + right) / 2;
  const deep = 2 * g.half * ((d["depth"] ?? 2) / (d["width"] ?? 10));
  const half = deep * Math.tan(((d["angle"] ?? 45) * Math.PI) / 360);
  const [top, low] = [MID - g.half, MID + g.half];
  return (
    <>
      <path d={`M${left} ${top}H${mid - half}L${mid} ${top + deep}L${mid + half} ${top}H${right}V${low}H${left}Z`} fill="var(--surface)" stroke="var(--ink)" strokeWidth="2" strokeLinejoin="round" data-testid="outline" />
      {arrows && <Arrows columns={[mid]} half={g.half} crop={crop} doubted={doubted} />}
      {dimensioned && (
        <>
          <Dimension x1={left} x2={right} y={H - 22} text={size(d["overall"])} />
          <Dimension x1={top} x2={low} y={right + 30} upright text={size(d["width"])} />
          <Dimension x1={top + deep} x2={low} y={mid} upright text={`${size((d["width"] ?? 0) - (d["depth"] ?? 0))} left, ${size(d["thickness"])} thick`} />
        </>
      )}
    </>
  );
}
