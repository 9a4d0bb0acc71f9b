import { Arrows, Break, Dimension, type DrawingProps, placeOf } from "./Drawing";
import { H, LEFT, MID, pullBar, RIGHT, W, xAt } from "./geometry";
import { section, size } from "./sizes";

/** A dumb-bell between the pins; a touch tells where it broke. */
export function PullBar({ shape, orientation, place, onTouch, arrows = true, dimensioned = false, crop, doubted }: DrawingProps) {
  const g = pullBar(shape);
  const d = shape.dimensions;
  const outline = `M${LEFT} ${MID - g.end}H${g.s0}C${g.s0 + 40} ${MID - g.end} ${g.g0 - 40} ${MID - g.half} ${g.g0} ${MID - g.half}H${g.g1}C${g.g1 + 40} ${MID - g.half} ${g.s1 - 40} ${MID - g.end} ${g.s1} ${MID - g.end}H${RIGHT}V${MID + g.end}H${g.s1}C${g.s1 - 40} ${MID + g.end} ${g.g1 + 40} ${MID + g.half} ${g.g1} ${MID + g.half}H${g.g0}C${g.g0 - 40} ${MID + g.half} ${g.s0 + 40} ${MID + g.end} ${g.s0} ${MID + g.end}H${LEFT}Z`;
  const upright = orientation === "upright";
  const breakX = place === null ? 0 : xAt(g, place);
  return (
    <>
      <clipPath id="specimen-outline">
        <path d={outline} />
      </clipPath>
      <path
        d={outline}
        fill="var(--surface)"
        stroke="var(--ink)"
        strokeWidth="2"
        data-testid="outline"
        {...(onTouch ? { onClick: (e: React.MouseEvent<SVGPathElement>) => onTouch(placeOf(e, g) ?? 0.5), style: { cursor: "crosshair" } } : {})}
      />
      {upright && (
        <g clipPath="url(#specimen-outline)" pointerEvents="none">
          {Array.from({ length: 140 }, (_, i) => (
            <line key={i} x1={LEFT + i * 7} x2={LEFT + i * 7} y1={0} y2={H} stroke="var(--line)" strokeWidth="0.7" />
          ))}
        </g>
      )}
      <g pointerEvents="none">
        <path d={`M${LEFT} ${MID}H20m12 -9l-14 9l14 9zM${RIGHT} ${MID}H${W - 20}m-12 -9l14 9l-14 9z`} stroke="var(--ink)" fill="var(--ink)" strokeWidth="1.6" />
        {arrows && <Arrows columns={g.columns} half={g.half} crop={crop} doubted={doubted} />}
        {arrows && !dimensioned && (
          <>
            <path d={`M${g.g0} ${MID - 14}v28M${g.g0} ${MID}H${g.g1}M${g.g1} ${MID - 14}v28`} stroke="var(--line)" strokeWidth="1.4" fill="none" />
            <text x={g.g1 - 6} y={MID + 22} textAnchor="end" fontSize="15" fill="var(--soft)" stroke="var(--surface)" strokeWidth="4" paintOrder="stroke">
              parallel {size(d["parallel"])}{upright ? " · across the layers" : ""}
            </text>
          </>
        )}
        {dimensioned && (
          <>
            <Dimension x1={g.g0} x2={g.g1} y={MID + 4} text={`parallel ${size(d["parallel"])}`} />
            <Dimension x1={LEFT} x2={RIGHT} y={H - 24} text={size(d["overall"])} />
            <Dimension x1={MID - g.half} x2={MID + g.half} y={g.g0 + 40} upright text={section(d["width"], d["thickness"])} />
            <Dimension x1={MID - g.end} x2={MID + g.end} y={LEFT + 30} upright text={size(d["end_width"])} />
          </>
        )}
        {place !== null && <Break x={breakX} half={breakX > g.g0 && breakX < g.g1 ? g.half : g.end} />}
      </g>
    </>
  );
}
