import type { Schemas } from "../../api/client";
import css from "./bench.module.css";

export type Fields = Record<string, string[]>;
export interface Fracture {
  name: string;
  place: number;
}

interface SpecimenDrawingProps {
  code: string;
  test: Schemas["TestView"];
  fields: Fields;
  onField: (name: string, position: number, raw: string) => void;
  /** Fields that the server found wrong, by name and position. */
  wrong: ReadonlyMap<string, string>;
  locked: boolean;
  dimensionsOnly: boolean;
  lengthUnit: string;
  forceUnit: string;
  fracture: Fracture | null;
  onFracture: (fracture: Fracture) => void;
  curveName: string | null;
  onRemoveCurve: () => void;
  children?: React.ReactNode;
}

const W = 1100;
const H = 372;
const MID = H / 2;
const LEFT = 60;
const RIGHT = W - 60;

/** Where things lie on the drawing; to scale, but the gauge section is never drawn too short for its fields. */
function geometry(shape: Schemas["ShapeView"]) {
  const length = RIGHT - LEFT;
  const gauge = Math.min(560, Math.max(400, (shape.parallel / shape.overall) * length));
  const shoulder = (length - gauge) * 0.16;
  const half = Math.min(48, Math.max(34, (shape.width / shape.end_width) * 88));
  return { g0: W / 2 - gauge / 2, g1: W / 2 + gauge / 2, s0: W / 2 - gauge / 2 - shoulder, s1: W / 2 + gauge / 2 + shoulder, half, end: 86 };
}

/** The specimen as it lies on the bench; entries sit where the calliper goes, and a touch tells where it broke. */
export function SpecimenDrawing(props: SpecimenDrawingProps) {
  const { code, test, fields, fracture, locked, dimensionsOnly } = props;
  const g = geometry(test.shape);
  const outline = `M${LEFT} ${MID - g.end}H${g.s0}C${g.s0 + 40} ${MID - g.end} ${g.g0 - 40} ${MID - g.half} ${g.g0} ${MID - g.half}H${g.g1}C${g.g1 + 40} ${MID - g.half} ${g.s1 - 40} ${MID - g.end} ${g.s1} ${MID - g.end}H${RIGHT}V${MID + g.end}H${g.s1}C${g.s1 - 40} ${MID + g.end} ${g.g1 + 40} ${MID + g.half} ${g.g1} ${MID + g.half}H${g.g0}C${g.g0 - 40} ${MID + g.half} ${g.s0 + 40} ${MID + g.end} ${g.s0} ${MID + g.end}H${LEFT}Z`;
  const upright = test.orientation === "upright";
  const touch = (e: React.MouseEvent<SVGPathElement>) => {
    const box = e.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (!box) return;
    const x = ((e.clientX - box.left) / box.width) * W;
    const name = x < g.s0 || x > g.s1 ? "grip" : x < g.g0 || x > g.g1 ? "outside gauge" : upright ? "one layer" : "gauge";
    props.onFracture({ name, place: Math.min(1, Math.max(0, (x - LEFT) / (RIGHT - LEFT))) });
  };
  const places = [0.18, 0.5, 0.82].map((t) => g.g0 + t * (g.g1 - g.g0));
  const breakX = fracture ? LEFT + fracture.place * (RIGHT - LEFT) : 0;
  const breakHalf = fracture && breakX > g.g0 && breakX < g.g1 ? g.half : g.end;
  return (
    <div className={css.drawing} style={{ aspectRatio: `${W} / ${H}` }}>
      <svg viewBox={`0 0 ${W} ${H}`} className={css.shape} role="img" aria-label={`${test.shape.label}, pulled ${test.orientation}`}>
        <clipPath id="specimen-outline">
          <path d={outline} />
        </clipPath>
        <path d={outline} fill="var(--surface)" stroke="var(--ink)" strokeWidth="2" onClick={touch} style={{ cursor: "crosshair" }} data-testid="outline" />
        {upright && (
          <g clipPath="url(#specimen-outline)" pointerEvents="none">
            {Array.from({ length: 140 }, (_, i) => (
              <line key={i} x1={LEFT + i * 7} x2={LEFT + i * 7} y1={0} y2={H} stroke="var(--line)" strokeWidth="0.7" />
            ))}
          </g>
        )}
        <g pointerEvents="none">
          <path d={`M${LEFT} ${MID}H20m12 -9l-14 9l14 9zM${RIGHT} ${MID}H${W - 20}m-12 -9l14 9l-14 9z`} stroke="var(--ink)" fill="var(--ink)" strokeWidth="1.6" />
          {places.map((x) => (
            <g key={x} stroke="var(--accent)" fill="var(--accent)">
              <path d={`M${x} 58V${MID - g.half - 10}`} strokeDasharray="4 4" strokeWidth="1.6" />
              <path d={`M${x - 5} ${MID - g.half - 11}h10l-5 9z`} stroke="none" />
              <path d={`M${x} ${H - 58}V${MID + g.half + 10}`} strokeDasharray="4 4" strokeWidth="1.6" />
              <path d={`M${x - 5} ${MID + g.half + 11}h10l-5 -9z`} stroke="none" />
            </g>
          ))}
          <path d={`M${g.g0} ${MID - 14}v28M${g.g0} ${MID}H${g.g1}M${g.g1} ${MID - 14}v28`} stroke="var(--line)" strokeWidth="1.4" fill="none" />
          <text x={W / 2} y={MID + 22} textAnchor="middle" fontSize="15" fill="var(--soft)" stroke="var(--surface)" strokeWidth="4" paintOrder="stroke">
            gauge {test.shape.gauge_length} mm{upright ? " · pulled across the layers" : ""}
          </text>
          {fracture && (
            <path
              d={`M${breakX} ${MID - breakHalf}l9 ${breakHalf * 0.45}l-14 ${breakHalf * 0.45}l12 ${breakHalf * 0.5}l-9 ${breakHalf * 0.6}`}
              fill="none"
              stroke="var(--worse)"
              strokeWidth="4"
              strokeLinejoin="round"
            />
          )}
        </g>
      </svg>
      <div className={css.tag} style={{ left: `${(100 * (LEFT + 14)) / W}%`, width: `${(100 * (g.s0 - LEFT - 28)) / W}%` }}>
        <div className={css.code}>{code}</div>
        <div className="soft">
          {test.label.toLowerCase()}, {test.orientation}
        </div>
        {!fracture && <div className="soft">where did it break? touch the drawing</div>}
        {fracture && <div style={{ color: "var(--worse)" }}>broke {test.fractures.find((f) => f.name === fracture.name)?.label}</div>}
      </div>
      {(["width", "thickness"] as const).map((name) => (
        <fieldset key={name} className={css.row} style={name === "width" ? { top: 0 } : { bottom: 0 }}>
          <legend className="visually-hidden">{name}</legend>
          {places.map((x, i) => (
            <label key={i} className={css.entry} style={{ left: `${(100 * x) / W}%` }} data-wrong={props.wrong.has(`${name}-${i}`) || undefined}>
              <span className={i === 0 ? css.first : "visually-hidden"}>
                {name}
                <span className="visually-hidden"> {i + 1}</span>
              </span>
              <input
                name={`${name}-${i}`}
                aria-label={`${name} ${i + 1}, ${props.lengthUnit}`}
                inputMode="decimal"
                autoComplete="off"
                value={fields[name]?.[i] ?? ""}
                readOnly={locked}
                onChange={(e) => props.onField(name, i, e.currentTarget.value)}
                title={props.wrong.get(`${name}-${i}`)}
              />
              <span className={css.unit}>{props.lengthUnit}</span>
            </label>
          ))}
        </fieldset>
      ))}
      <div className={css.load} style={{ left: `${(100 * (g.s1 + 12)) / W}%`, width: `${(100 * (RIGHT - g.s1 - 26)) / W}%` }}>
        {props.curveName ? (
          <div className={css.recording}>
            <div className="soft">recording</div>
            <div style={{ overflowWrap: "anywhere" }}>{props.curveName}</div>
            <button type="button" className={css.link} onClick={props.onRemoveCurve}>
              remove
            </button>
          </div>
        ) : dimensionsOnly ? (
          <div className="soft">dimensions round: the load comes later</div>
        ) : (
          <label className={`${css.entry} ${css.peak}`} data-wrong={props.wrong.has("peak_force-0") || undefined}>
            <span className="soft">load when it broke</span>
            <input
              name="peak_force-0"
              aria-label={`load when it broke, ${props.forceUnit}`}
              inputMode="decimal"
              autoComplete="off"
              value={fields["peak_force"]?.[0] ?? ""}
              onChange={(e) => props.onField("peak_force", 0, e.currentTarget.value)}
              title={props.wrong.get("peak_force-0")}
            />
            <span className={css.unit}>{props.forceUnit}</span>
          </label>
        )}
        {props.children}
      </div>
    </div>
  );
}
