import { Dimension, type DrawingProps } from "./Drawing";
import { MID, W } from "./geometry";
import { size } from "./sizes";

/** The open C, hanging, with the two faces that the gap is read between. */
export function CreepFrame({ shape, dimensioned = false }: DrawingProps) {
  const d = shape.dimensions;
  const [x, y, s] = [W / 2 - 110, MID - 120, 5];
  const limb = (d["width"] ?? 8) * s;
  const reach = (d["reach"] ?? 30) * s;
  const opening = (d["opening"] ?? 30) * s;
  const face = ((d["opening"] ?? 30) - (d["faces"] ?? 20)) * s * 0.5;
  const right = x + limb + reach;
  return (
    <>
      <path
        d={`M${x} ${y}H${right}V${y + limb + face}h-22v${-face}H${x + limb}V${y + limb + opening}H${right - 22}v${-face}h22V${y + 2 * limb + opening}H${x}Z`}
        fill="var(--surface)"
        stroke="var(--ink)"
        strokeWidth="2"
        data-testid="outline"
      />
      <path d={`M${right - 50} ${y}V${y - 40}M${right - 50} ${y + 2 * limb + opening}v40`} stroke="var(--ink)" strokeWidth="2" />
      {dimensioned && (
        <>
          <Dimension x1={y + limb + face} x2={y + limb + opening - face} y={right + 26} upright text={`gap, ${size(d["faces"])} as printed`} />
          <Dimension x1={y} x2={y + limb} y={x - 26} upright text="" />
          <text x={x - 44} y={y + limb / 2 + 5} textAnchor="end" fontSize="23" fill="var(--ink)">
            {d["width"]} × {d["thickness"]} mm
          </text>
        </>
      )}
    </>
  );
}
