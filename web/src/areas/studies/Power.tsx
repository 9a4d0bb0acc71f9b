import { useQuery } from "@tanstack/react-query";

import type { Schemas } from "../../api/client";
import { powerOptions } from "../../api/queries/studies";
import { TakeTable } from "../../figures/FigureFrame";
import { amount, short } from "../../ui/format";
import { ArmSwatch } from "../../ui/Swatch";
import { Wide } from "../../ui/Wide";
import css from "./plan.module.css";
import { calendarDays, needOf, printHours, seenBy, turnsOf } from "./power";
import { powerRows } from "./tables";
import type { Planned } from "./usePlan";

type Study = Schemas["StudyView"];

/** What so many specimens can see, test by test, while their number is changed; and what they take. */
export function Power({ study, plan }: { study: Study; plan: Planned }) {
  const asked = useQuery(powerOptions(study.id, study.revision));
  const power = asked.data;
  if (!power) return null;
  const more = (testId: string) => {
    const test = study.tests.find((t) => t.id === testId);
    return test ? plan.wanted(test) - test.replicates : 0;
  };
  return (
    <section className={css.part} aria-label="What it can see, and what it takes">
      <div className={css.titled}>
        <h2>What it can see</h2>
        <TakeTable name="power" about={{ kind: "study", name: study.title }} rows={() => powerRows(power)} />
      </div>
      <p className="soft">
        The smallest true difference to the reference that is found four times in five{power.comparisons > 1 && `, with ${String(power.comparisons)} compared at once`}.
      </p>
      <ul className={css.powers}>
        {power.rows.map((row) => (
          <PowerOf key={row.test_id} row={row} wanted={row.replicates + more(row.test_id)} />
        ))}
      </ul>
      <Takes study={study} power={power} more={more} />
    </section>
  );
}

const W = 300;
const H = 132;
const LEFT = 44;
const BOTTOM = H - 30;
const MOST_N = 20;

function PowerOf({ row, wanted }: { row: Schemas["PowerRow"]; wanted: number }) {
  const top = Math.max(row.seen[1] ?? 0.2, (row.margin ?? 0) * 1.6);
  const x = (n: number) => LEFT + ((Math.min(n, MOST_N) - 2) / (MOST_N - 2)) * (W - LEFT - 12);
  const y = (share: number) => 10 + (1 - Math.min(share / top, 1)) * (BOTTOM - 10);
  const seen = seenBy(row, wanted);
  const words = wordsOf(row, wanted);
  const line = row.seen
    .map((s, i) => ({ s, n: i + 2 }))
    .filter((p) => p.s <= top * 1.001)
    .map((p, i) => `${i ? "L" : "M"}${x(p.n).toFixed(1)} ${y(p.s).toFixed(1)}`)
    .join("");
  return (
    <li>
      <svg viewBox={`0 0 ${String(W)} ${String(H)}`} width={W} height={H} role="img" aria-label={`${row.label}, ${row.orientation}: ${words}`}>
        <path d={`M${String(LEFT)} 8V${String(BOTTOM)}H${String(W - 8)}`} stroke="var(--soft)" fill="none" />
        {[2, 5, 10, 15, 20].map((n) => (
          <text key={n} x={x(n)} y={BOTTOM + 13} fontSize="11" textAnchor="middle" fill="var(--soft)">
            {n}
          </text>
        ))}
        <text x={W - 8} y={14} fontSize="11" textAnchor="end" fill="var(--soft)">
          difference seen
        </text>
        <text x={W - 8} y={H - 3} fontSize="11" textAnchor="end" fill="var(--soft)">
          specimens of each
        </text>
        {[top, top / 2].map((share) => (
          <text key={share} x={LEFT - 5} y={y(share) + 4} fontSize="11" textAnchor="end" fill="var(--soft)">
            {percent(share)}
          </text>
        ))}
        <path d={line} stroke="var(--ink)" strokeWidth="1.6" fill="none" />
        {row.margin !== null && (
          <g>
            <path d={`M${String(LEFT)} ${y(row.margin).toFixed(1)}H${String(W - 8)}`} stroke="var(--accent)" strokeDasharray="5 4" />
            <text x={W - 8} y={y(row.margin) - 4} fontSize="11" textAnchor="end" fill="var(--accent)" stroke="var(--ground)" strokeWidth="3" paintOrder="stroke">
              what matters, {percent(row.margin)}
            </text>
          </g>
        )}
        {seen !== null && seen <= top * 1.001 && <circle cx={x(wanted)} cy={y(seen)} r="5" fill="var(--accent)" />}
      </svg>
      <div>
        <strong>
          {row.label}, {row.orientation}
        </strong>
        <span>{words}</span>
        <span className="soft">
          scatter {percent(row.cv)} {row.seen_here ? `seen here on ${String(row.seen_here)} specimens` : "assumed: not seen here yet"}
        </span>
      </div>
    </li>
  );
}

const percent = (share: number) => `${short(Math.round(share * 1000) / 10)} %`;

function wordsOf(row: Schemas["PowerRow"], wanted: number): string {
  const seen = seenBy(row, wanted);
  const what = seen === null ? "one of each sees nothing" : `${String(wanted)} of each see ${percent(seen)} and more`;
  return `${what}; ${needOf(row, wanted)}`;
}

/** Filament against what is left, money, hours at the printer and at the bench. */
function Takes({ study, power, more }: { study: Study; power: Schemas["PowerView"]; more: (testId: string) => number }) {
  const arms = power.needs.map((need, i) => {
    const added = power.rows.reduce((sum, r) => sum + more(r.test_id) * (r.mass_each[i] ?? 0), 0);
    return { ...need, mass: need.mass === null ? null : need.mass + added };
  });
  const specimens = power.rows.reduce((sum, r) => sum + (r.replicates + more(r.test_id)) * study.arms.length, 0);
  const bench = power.rows.reduce((sum, r) => sum + r.minutes * (r.replicates + more(r.test_id)) * study.arms.length, 0) / 60;
  const price = arms.every((a) => a.price !== null) ? arms.reduce((sum, a) => sum + (a.price ?? 0), 0) : null;
  const volume = arms.reduce((sum, a) => sum + a.volume, 0) + power.rows.reduce((sum, r) => sum + more(r.test_id) * r.volume_each * arms.length, 0);
  const hours = printHours(volume, power.rate);
  const racks = power.rows.flatMap((r) => {
    const count = (r.replicates + more(r.test_id)) * study.arms.length;
    return r.places === null ? [] : [{ row: r, count, turns: turnsOf(r, count) }];
  });
  const days = calendarDays(hours, bench, racks.map((r) => r.turns?.days ?? 0));
  return (
    <>
      <h2>What it takes</h2>
      <p>
        <strong className="figure">{specimens}</strong> specimens in all, about <strong className="figure">{bench.toFixed(bench < 10 ? 1 : 0)}</strong> h at the bench
        {hours > 0 && (
          <>
            ; still to print about <strong className="figure">{hours.toFixed(hours < 10 ? 1 : 0)}</strong> h at {power.rate.toFixed(1)} mm³/s{power.rate_files > 0 ? ", by the files of its plates" : ", as is usual"}
          </>
        )}
        {price !== null && price > 0 && <>, filament for {price.toFixed(2)} (the spools&apos; currency)</>}
        ; with ten hours of printing and five at the bench a day about <strong className="figure">{days}</strong> {days === 1 ? "day" : "days"}
      </p>
      {racks.map(({ row, count, turns }) => (
        <p key={row.test_id} style={turns === null || turns.turns > 1 ? { color: "var(--caution)" } : undefined}>
          {row.label}, {row.orientation}: {count} specimens for {short(row.days_each)} days each{" "}
          {turns === null ? "and no rack for it is registered" : `on ${String(row.places ?? 0)} places: ${turns.turns === 1 ? "all at once" : `${String(turns.turns)} times one after another, ${short(turns.days)} days`}`}.
        </p>
      ))}
      {arms.every((a) => a.volume === 0 && a.mass === 0) && <p className="soft">All that is planned has been printed.</p>}
      <Wide label="Filament still to be printed">
        <ul className={css.needs}>
          {arms.filter((a) => a.mass !== 0).map((a) => {
            const arm = study.arms.find((x) => x.id === a.arm_id);
            const short_of = a.mass !== null && a.left !== null && a.mass > a.left;
            return (
              <li key={a.arm_id} data-short={short_of || undefined}>
                {arm && <ArmSwatch arm={arm} size={22} />}
                <span>{a.mass === null ? "density not known" : amount(a.mass, "g", 0)}</span>
                <span className="soft">{a.left === null ? "no spool weighed" : `of ${amount(a.left, "g", 0)} left`}</span>
                {short_of && <span style={{ color: "var(--worse)" }}>▲ not enough</span>}
              </li>
            );
          })}
        </ul>
      </Wide>
    </>
  );
}
