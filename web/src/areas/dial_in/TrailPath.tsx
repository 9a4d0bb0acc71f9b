import { useEffect, useRef } from "react";

import type { Schemas } from "../../api/client";
import { count, durationWords } from "../../ui/format";
import { headOf, placed, type Placed } from "./layout";
import css from "./path.module.css";
import { chip, outcomeWords, type Trial } from "./words";

const STEP = 200;
const WIDTH = 168;
const GAP = 24;
const TOP = 6;
const LEFT = 4;
const MIDDLE = 34;
const MOST_CHIPS = 2;
/** Letters of a chip that fit in one line. */
const LINE = 20;

/** How high a trial's card is, near enough for the next row to begin below it. */
function heightOf(t: Trial): number {
  const chips = t.changes.slice(0, MOST_CHIPS).reduce((h, d) => h + (chip(d).length > LINE ? 35 : 20), 0);
  const more = (t.changes.length > MOST_CHIPS ? 18 : 0) + (t.parent_id === null ? 18 : 0) + (t.control ? 20 : 0) + (t.series ? 35 : 0) + (t.decision === "drop" && failedOf(t) ? 18 : 0);
  return 38 + chips + more + (Object.keys(t.grades).length ? 36 : 0);
}

const failedOf = (t: Trial) => t.outcome === "failed" || t.outcome === "stopped";

/** Where each row begins. */
function rowsOf(places: readonly Placed[]): number[] {
  const rows = Math.max(...places.map((p) => p.row)) + 1;
  const starts = [TOP];
  for (let row = 0; row < rows; row++) starts.push((starts[row] ?? TOP) + GAP + Math.max(58, ...places.filter((p) => p.row === row).map((p) => heightOf(p.trial))));
  return starts;
}

interface TrailPathProps {
  trail: Schemas["TrailView"];
  traits: readonly Schemas["TraitView"][];
  chosen: Trial | undefined;
  onChoose: (trial: Trial) => void;
  onNext: () => void;
  compact: ReadonlySet<string>;
}

/** The trail as a branching path: every trial with what it changed and how it was graded. */
export function TrailPath({ trail, traits, chosen, onChoose, onNext, compact }: TrailPathProps) {
  const head = headOf(trail.trials, trail.current?.trial_id ?? null);
  const places = placed(trail.trials, head);
  const at = new Map(places.map((p) => [p.trial.id, p]));
  const columns = Math.max(...places.map((p) => p.column)) + 2;
  const tops = rowsOf(places);
  const own = chosen && at.get(chosen.id);
  const frame = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const box = frame.current;
    if (!box || !own) return;
    const x = LEFT + own.column * STEP;
    if (x < box.scrollLeft || x + 2 * STEP > box.scrollLeft + box.clientWidth) box.scrollTo({ left: Math.max(0, x - box.clientWidth / 2), behavior: "smooth" });
  }, [own]);
  const step = (e: React.KeyboardEvent) => {
    const to = own && neighbour(places, own, e.key);
    if (!to) return;
    e.preventDefault();
    onChoose(to.trial);
    document.getElementById(`trial-${to.trial.id}`)?.focus();
  };
  return (
    <div className={css.frame} ref={frame} tabIndex={0} role="group" aria-label={`The trail: ${count(trail.trials.length, "trial")}. Arrow keys go from one to the next.`} onKeyDown={step}>
      <div className={css.field} style={{ width: LEFT + columns * STEP, height: tops.at(-1) }}>
        <svg width={LEFT + columns * STEP} height={tops.at(-1)} aria-hidden="true">
          {places.map((p) => {
            const parent = p.trial.parent_id ? at.get(p.trial.parent_id) : undefined;
            return parent && <Way key={p.trial.id} from={parent} to={p} tops={tops} />;
          })}
        </svg>
        {places.map((p) => (
          <Node key={p.trial.id} place={p} top={tops[p.row] ?? TOP} traits={traits} chosen={p.trial.id === chosen?.id} current={p.trial.id === trail.current?.trial_id} onChoose={onChoose} compact={compact} />
        ))}
        {own && chosen && chosen.outcome !== "planned" && free(places, own) && (
          <button type="button" className={css.next} style={{ left: LEFT + (own.column + 1) * STEP, top: (tops[own.row] ?? TOP) + 6 }} onClick={onNext}>
            <strong>
              next trial <kbd>T</kbd>
            </strong>
            <span>starts from {chosen.number}</span>
          </button>
        )}
      </div>
    </div>
  );
}

/** Whether the place to the right of a trial is empty. */
const free = (places: readonly Placed[], own: Placed) => !places.some((p) => p.row === own.row && p.column === own.column + 1);

function neighbour(places: readonly Placed[], own: Placed, key: string): Placed | undefined {
  if (key === "ArrowLeft") return places.find((p) => p.trial.id === own.trial.parent_id);
  if (key === "ArrowRight") return places.filter((p) => p.trial.parent_id === own.trial.id).sort((a, b) => a.row - b.row)[0];
  const near = places.filter((p) => (key === "ArrowDown" ? p.row > own.row : key === "ArrowUp" && p.row < own.row));
  return near.sort((a, b) => Math.abs(a.row - own.row) - Math.abs(b.row - own.row) || Math.abs(a.column - own.column) - Math.abs(b.column - own.column))[0];
}

function Way({ from, to, tops }: { from: Placed; to: Placed; tops: readonly number[] }) {
  const x0 = LEFT + from.column * STEP + WIDTH;
  const y0 = (tops[from.row] ?? TOP) + MIDDLE;
  const x1 = LEFT + to.column * STEP;
  const y1 = (tops[to.row] ?? TOP) + MIDDLE;
  const middle = (x0 + x1) / 2;
  const dropped = to.trial.decision === "drop" || failedOf(to.trial);
  return <path d={`M${String(x0)} ${String(y0)} C${String(middle)} ${String(y0)} ${String(middle)} ${String(y1)} ${String(x1)} ${String(y1)}`} className={css.way} data-main={(to.main && from.main) || undefined} data-dropped={dropped || undefined} />;
}

interface NodeProps {
  place: Placed;
  top: number;
  traits: readonly Schemas["TraitView"][];
  chosen: boolean;
  current: boolean;
  compact: ReadonlySet<string>;
  onChoose: (trial: Trial) => void;
}

function Node({ place, top, traits, chosen, current, compact, onChoose }: NodeProps) {
  const t = place.trial;
  const failed = failedOf(t);
  const several = t.changes.length > 1 && compact.has(t.id);
  return (
    <button
      type="button"
      id={`trial-${t.id}`}
      className={css.node}
      style={{ left: LEFT + place.column * STEP, top, width: WIDTH }}
      data-chosen={chosen || undefined}
      data-dropped={t.decision === "drop" || failed || undefined}
      data-planned={t.outcome === "planned" || undefined}
      aria-pressed={chosen}
      tabIndex={chosen ? 0 : -1}
      onClick={() => onChoose(t)}
    >
      <span className={css.top}>
        <strong>{t.number}</strong> {failed ? <span className={css.failed}>{outcomeWords(t)}</span> : t.outcome === "planned" ? <em>planned</em> : `${t.part} ${t.minutes === null ? "" : `· ${durationWords(t.minutes)}`}`}
      </span>
      {current && <span className={css.current}>current sheet</span>}
      {t.control && <span className={css.chip}>control: {t.control.product}</span>}
      {t.series && (
        <span className={css.chip}>
          tower {t.series.label} {t.series.values[0]} … {t.series.values.at(-1)} {t.series.unit}
        </span>
      )}
      {t.parent_id === null && <span className={css.start}>where it starts</span>}
      {t.changes.slice(0, MOST_CHIPS).map((d) => (
        <span key={d.name} className={css.chip} data-several={several || undefined}>
          {chip(d)}
        </span>
      ))}
      {t.changes.length > MOST_CHIPS && <span className={css.more}>and {t.changes.length - MOST_CHIPS} more</span>}
      {t.decision === "drop" && failed && <span className={css.start}>dropped</span>}
      <Bars grades={t.grades} traits={traits} />
      <span className="visually-hidden">{spoken(t, traits)}</span>
    </button>
  );
}

/** The grades in words, for those who do not see the bars. */
function spoken(t: Trial, traits: readonly Schemas["TraitView"][]): string {
  const grades = traits.filter((trait) => t.grades[trait.name] !== undefined).map((trait) => `${trait.short} ${String(t.grades[trait.name])} of 4`);
  return [...grades, t.decision === "drop" ? "dropped" : ""].filter(Boolean).join("; ");
}

/** Grades as bars, 0 to 4; the lowest are marked by colour and by their height. */
function Bars({ grades, traits }: { grades: Record<string, number>; traits: readonly Schemas["TraitView"][] }) {
  if (!traits.some((t) => grades[t.name] !== undefined)) return null;
  return (
    <svg width={traits.length * 22} height={30} aria-hidden="true" className={css.bars}>
      {traits.map((t, i) => {
        const grade = grades[t.name];
        if (grade === undefined) return null;
        const height = 3 + grade * 6.5;
        return <rect key={t.name} x={i * 22} y={30 - height} width={15} height={height} rx={3} fill={grade < 1.5 ? "var(--worse)" : "var(--ink)"} />;
      })}
    </svg>
  );
}
