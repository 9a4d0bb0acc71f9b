import { Arrows, Break, Dimension, type DrawingProps, placeOf } from "./Drawing";
import { bar, H, MID, xAt } from "./geometry";
import { size } from "./sizes";

/** A round rod between two hexagons, seen from the side. */
export function TorsionRod({ shape, place, onTouch, arrows = true, dimensioned = false, crop, doubted }: DrawingProps) {
  const g = bar();
  const { left, right } = g.ends;
  const d = shape.dimensions;
  const long = (d["parallel"] ?? 32) + 2 * (d["end_length"] ?? 14);
  const head = ((right - left) * (d["end_length"] ?? 14)) / long;
  const rod = g.half * ((d["diameter"] ?? 8) / (d["across_flats"] ?? 13));
  const ends = [left, right - head] as const;
  return (
    <>
      <g
        fill="var(--surface)"
        stroke="var(--ink)"
        strokeWidth="2"
        data-testid="outline"
        {...(onTouch ? { onClick: (e: React.MouseEvent<SVGGElement>) => onTouch(placeOf(e, g) ?? 0.5), style: { cursor: "crosshair" } } : {})}
      >
        <path d={`M${left + head} ${MID - rod}H${right - head}V${MID + rod}H${left + head}Z`} />
        {ends.map((x) => (
          <g key={x}>
            <path d={`M${x} ${MID - g.half}h${head}v${2 * g.half}h${-head}z`} />
            {/* the edges of the hexagon, short where they meet the rod: the code stands between them */}
            <path d={`M${x === left ? x + head * 0.86 : x} ${MID - g.half / 2}h${head * 0.14}m0 ${g.half}h${-head * 0.14}`} stroke="var(--line)" />
          </g>
        ))}
      </g>
      <g pointerEvents="none">
        {arrows && <Arrows columns={g.columns} half={rod} crop={crop} doubted={doubted} />}
        {dimensioned && (
          <>
            <Dimension x1={left + head} x2={right - head} y={H - 22} text={size(d["parallel"])} />
            <Dimension x1={MID - rod} x2={MID + rod} y={(left + right) / 2} upright text={`Ø ${size(d["diameter"])}`} />
            <Dimension x1={MID - g.half} x2={MID + g.half} y={right + 30} upright text={`${size(d["across_flats"])} across flats`} />
          </>
        )}
        {place !== null && <Break x={xAt(g, place)} half={rod} />}
      </g>
    </>
  );
}
