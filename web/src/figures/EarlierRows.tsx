import type { Schemas } from "../api/client";
import { boundSign, figure, interval, signed } from "../ui/format";
import { Swatch } from "../ui/Swatch";
import type { Shown } from "../ui/units";
import { Clipped } from "./Clipped";
import { Interval } from "./Interval";
import type { Scale } from "./scale";

export type Earlier = Schemas["EarlierView"];

/** Where the rows are: names left of the axis, or above it on a phone. */
interface Place {
  narrow: boolean;
  width: number;
  left: number;
  right: number;
}

interface EarlierRowsProps {
  earlier: readonly Earlier[];
  /** Top of the first row, below the heading. */
  top: number;
  place: Place;
  at: Scale;
  shown: Shown;
  onTest: (studyId: string, testId: string) => void;
  /** Makes an arm of another study the one that the arms are compared with. */
  onReference?: ((armId: string) => void) | undefined;
}

export const rowOfEarlier = (narrow: boolean) => (narrow ? 88 : 48);
export const EARLIER_HEADING = 26;

/** What an arm had that others of its material had not says more than the colour, which the swatch shows. */
const nameOf = (e: Earlier) => (e.distinguished_by ? `${e.material.product}: ${e.distinguished_by}` : `${e.material.maker} ${e.material.product}, ${e.material.colour}`);

/** Words that a line of the figure passes behind stay readable. */
const OVER_LINES = { stroke: "var(--ground)", strokeWidth: 3, paintOrder: "stroke" } as const;

/** "n 6 · Nov 2026 · Gate study" */
export function sourceWords(e: Earlier): string {
  const date = /^\d{4}-\d{2}-\d{2}$/.test(e.on) ? new Date(e.on).toLocaleDateString("en-GB", { month: "short", year: "numeric" }) : e.on;
  return [e.n !== null && `n ${String(e.n)}`, date, e.source].filter(Boolean).join(" · ");
}

/** Results from other studies below the arms: on the axis, solid where they may be compared, hollow where not, dashed as well where they are only reported or converted. */
export function EarlierRows({ earlier, top, place, at, shown, onTest, onReference }: EarlierRowsProps) {
  const height = rowOfEarlier(place.narrow);
  return (
    <g>
      <text x="2" y={top - 8} fontSize="13" fontWeight="650" fill="var(--soft)">
        From other studies
      </text>
      {earlier.map((e, i) => {
        const y = top + i * height;
        return <EarlierRow key={`${e.test_id ?? e.source} ${e.material.id} ${e.distinguished_by} ${String(e.mean)}`} e={e} y={y} line={place.narrow ? y + 60 : y + 15} place={place} at={at} shown={shown} onTest={onTest} onReference={onReference} />;
      })}
    </g>
  );
}

function EarlierRow({ e, y, line, place, at, shown, onTest, onReference }: { e: Earlier; y: number; line: number; place: Place; at: Scale; shown: Shown } & Pick<EarlierRowsProps, "onTest" | "onReference">) {
  const colour = "var(--soft)";
  const open = e.study_id && e.test_id ? [e.study_id, e.test_id] as const : null;
  const arm = onReference && e.differs.length === 0 ? e.arm_id : null;
  const room = (place.narrow ? place.width * 0.7 : place.left) - 34;
  const value = `${boundSign(e)}${figure(shown.at(e.mean), e.ci95 && shown.ends(e.ci95))}`;
  const percent = e.relative ? 100 * (e.relative.factor - 1) : null;
  const end = place.width - 2;
  const [first, second] = place.narrow ? [y + 16, y + 32] : [y + 13, y + 29];
  return (
    <g>
      <Swatch x={4} y={y + 4} size={22} hex={e.material.hex} mark={e.material.mark} filled={e.material.filler !== null} />
      {arm && (
        <g role="button" tabIndex={0} aria-label={`${nameOf(e)}: compare the arms with it`} style={{ cursor: "pointer" }} onClick={() => onReference?.(arm)} onKeyDown={(key) => (key.key === "Enter" || key.key === " ") && (key.preventDefault(), onReference?.(arm))}>
          <rect x="0" y={y - 3} width={room + 30} height="24" fill="transparent" />
        </g>
      )}
      {open && (
        <g role="link" tabIndex={0} aria-label={`${sourceWords(e)}: the findings it is from`} style={{ cursor: "pointer" }} onClick={() => onTest(...open)} onKeyDown={(key) => key.key === "Enter" && onTest(...open)}>
          <rect x="0" y={y + 21} width={room + 30} height="24" fill="transparent" />
        </g>
      )}
      <text x="34" y={first} fontSize="13" fill="var(--ink)" pointerEvents="none" {...OVER_LINES}>
        <Clipped words={nameOf(e)} most={Math.floor(room / 7)} />
      </text>
      <text x="34" y={second} fontSize="11.5" fill={colour} pointerEvents="none" textDecoration={open ? "underline" : undefined} {...OVER_LINES}>
        <Clipped words={sourceWords(e)} most={Math.floor((place.narrow ? place.width - 36 : room) / 5.9)} />
      </text>
      {e.values.map((v, k) => (
        <circle key={k} cx={at(v)} cy={line + 11} r="3" fill={e.differs.length ? "none" : colour} stroke={colour} opacity="0.6" />
      ))}
      <g strokeDasharray={e.reported || e.converted ? "2 3" : undefined}>{e.ci95 && <Interval ci={e.ci95} at={at} y={line} colour={colour} width={1.6} />}</g>
      <circle cx={at(e.mean)} cy={line} r="4.8" fill={e.differs.length ? "var(--ground)" : colour} stroke={colour} strokeWidth="1.4" data-compared={e.differs.length === 0} />
      <text x={place.narrow ? end - (percent === null ? 0 : 62) : place.right + 104} y={first + 1} textAnchor="end" fontSize="13" fontFamily="var(--mono)" fill={colour}>
        {value}
      </text>
      {percent !== null && (
        <text x={end} y={first + 1} textAnchor="end" fontSize="13" fontFamily="var(--mono)" fill={colour}>
          {signed(percent, Math.abs(percent) < 9.95 ? 1 : 0)} %
        </text>
      )}
      {percent !== null && e.relative?.ci95 && !place.narrow && (
        <text x={end} y={second} textAnchor="end" fontSize="11.5" fontFamily="var(--mono)" fill={colour}>
          {interval([100 * (e.relative.ci95[0] - 1), 100 * (e.relative.ci95[1] - 1)])}
        </text>
      )}
      {percent === null && !place.narrow && (
        <text x={end} y={first + 1} textAnchor="end" fontSize="12" fill={colour}>
          {e.differs.join(", ") || "not compared"}
        </text>
      )}
    </g>
  );
}

/** What the rows need of the axis, an interval no further than the values. */
export const earlierValues = (earlier: readonly Earlier[]): number[] => earlier.flatMap((e) => [e.mean, ...e.values]);

