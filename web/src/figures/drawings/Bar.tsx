import { Arrows, Break, Dimension, type DrawingProps, placeOf } from "./Drawing";
import { bar, H, MID } from "./geometry";
import { section, size } from "./sizes";

/** A plain bar; on two supports where it is bent. */
export function Bar({ shape, place, onTouch, arrows = true, supported = false, dimensioned = false, crop, doubted }: DrawingProps) {
  const g = bar();
  const { left, right } = g.ends;
  const d = shape.dimensions;
  const mid = (left + right) / 2;
  const span = [left + 70, right - 70] as const;
  return (
    <>
      <rect
        x={left}
        y={MID - g.half}
        width={right - left}
        height={2 * g.half}
        fill="var(--surface)"
        stroke="var(--ink)"
        strokeWidth="2"
        data-testid="outline"
        {...(onTouch ? { onClick: (e: React.MouseEvent<SVGRectElement>) => onTouch(placeOf(e, g) ?? 0.5), style: { cursor: "crosshair" } } : {})}
      />
      <g pointerEvents="none">
        {supported &&
          span.map((x) => <path key={x} d={`M${x} ${MID + g.half}l-18 34h36z`} fill="var(--raised)" stroke="var(--ink)" strokeWidth="1.6" />)}
        {supported && !arrows && <path d={`M${mid} ${MID - g.half - 56}v44m-8 -14l8 14l8 -14z`} stroke="var(--accent)" fill="var(--accent)" strokeWidth="2" />}
        {arrows && <Arrows columns={g.columns} half={g.half} crop={crop} doubted={doubted} />}
        {dimensioned && (
          <>
            <Dimension x1={left} x2={right} y={H - 22} text={size(d["overall"])} />
            <Dimension x1={MID - g.half} x2={MID + g.half} y={right + 30} upright text={section(d["width"], d["thickness"])} />
            {supported && <Dimension x1={span[0]} x2={span[1]} y={MID + g.half + 62} text="span, of the rig" />}
          </>
        )}
        {place !== null && <Break x={left + place * (right - left)} half={g.half} />}
      </g>
    </>
  );
}
