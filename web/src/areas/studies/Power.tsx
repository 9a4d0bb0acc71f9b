import { SegmentedControl, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { powerOptions } from "../../api/queries/studies";
import { TakeTable } from "../../figures/FigureFrame";
import { amount, short } from "../../ui/format";
import { ArmSwatch } from "../../ui/Swatch";
import { Wide } from "../../ui/Wide";
import css from "./plan.module.css";
import { readNumber, typed } from "../../ui/number";
import { calendarDays, detectableBy, needOf, optionsOf, printHours, turnsOf } from "./power";
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
    <section className={css.part} aria-label="Detectable difference, cost and time">
      <div className={css.titled}>
        <h2>Detectable difference</h2>
        <TakeTable name="power" about={{ kind: "study", name: study.title }} rows={() => powerRows(power)} />
      </div>
      <p className="soft">
        The smallest true difference from the reference that is detected four times in five{power.comparisons > 1 && `, with ${String(power.comparisons)} compared at once`}, by the rule of the verdicts.
      </p>
      <div className={css.batches}>
        <span id="planned-batches">Each arm printed in</span>
        <SegmentedControl aria-labelledby="planned-batches" size="xs" value={String(power.batches)} onChange={(v) => void plan.edit({ batches: Number(v) })} data={["1", "2", "3", "4", "5", "6"]} />
        <span className="soft">
          {power.batches === 1 ? "batch: verdicts are valid for these prints only; what differs from print to print is in no interval" : "batches: what differs from print to print is in the intervals"}
        </span>
      </div>
      <ul className={css.powers}>
        {power.rows.map((row) => (
          <PowerOf key={row.test_id} row={row} batches={power.batches} wanted={row.replicates + more(row.test_id)} onTarget={(target) => plan.edit({ targets: { [row.test_id]: target } })} />
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
/** A difference beyond this share of the mean is detected by looking. */
const MOST_SHOWN = 2;

interface PowerOfProps {
  row: Schemas["PowerRow"];
  batches: number;
  wanted: number;
  onTarget: (target: number | null) => Promise<boolean>;
}

function PowerOf({ row, batches, wanted, onTarget }: PowerOfProps) {
  const first = row.detectable.find((s) => s !== null) ?? 0.2;
  const top = Math.max(Math.min(row.detectable[1] ?? first, 4 * (row.target ?? first)), (row.target ?? 0) * 1.6);
  const x = (n: number) => LEFT + ((Math.min(n, MOST_N) - 2) / (MOST_N - 2)) * (W - LEFT - 12);
  const y = (share: number) => 10 + (1 - Math.min(share / top, 1)) * (BOTTOM - 10);
  const detected = detectableBy(row, wanted);
  const words = wordsOf(row, wanted);
  const others = optionsOf(row, batches);
  const line = row.detectable
    .flatMap((s, i) => (s !== null && s <= top * 1.001 ? [{ s, n: i + 2 }] : []))
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
          difference detected
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
        {row.target !== null && (
          <g>
            <path d={`M${String(LEFT)} ${y(row.target).toFixed(1)}H${String(W - 8)}`} stroke="var(--accent)" strokeDasharray="5 4" />
            <text x={W - 8} y={y(row.target) + 12} fontSize="11" textAnchor="end" fill="var(--accent)" stroke="var(--ground)" strokeWidth="3" paintOrder="stroke">
              {row.target_set ? "target" : "what matters"}, {percent(row.target)}
            </text>
          </g>
        )}
        {detected !== null && detected <= top * 1.001 && <circle cx={x(wanted)} cy={y(detected)} r="5" fill="var(--accent)" />}
      </svg>
      <div>
        <strong>
          {row.label}, {row.orientation}
        </strong>
        <span>{words}</span>
        {row.needed === null && others && <span>or {others}</span>}
        <span className="soft">
          scatter within a batch {percent(row.cv)} {row.scatter_specimens ? `observed here on ${String(row.scatter_specimens)} specimens` : "assumed: not tested here yet"}; between batches {short(row.batch_ratio)} × that{" "}
          {row.batch_df ? `(observed here, ${String(row.batch_df)} degrees of freedom)` : "(assumed)"}
        </span>
        <Target row={row} onTarget={onTarget} />
      </div>
    </li>
  );
}

/** The difference to be detected, apart from the one that matters; empty: the latter. */
function Target({ row, onTarget }: { row: Schemas["PowerRow"]; onTarget: (target: number | null) => Promise<boolean> }) {
  const saved = row.target_set && row.target !== null ? typed(row.target * 100) : "";
  // what is typed stays until it is kept, also where that fails
  const [edited, setEdited] = useState<string | null>(null);
  const text = edited ?? saved;
  const value = readNumber(text);
  const wrong = value === undefined || (value !== null && !(value > 0 && value <= 1000));
  const save = async () => {
    if (edited === null || value === undefined || wrong) return;
    if (edited === saved || (await onTarget(value === null ? null : value / 100))) setEdited((now) => (now === edited ? null : now));
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <TextInput
        label="Detect a difference of, %"
        size="xs"
        w={170}
        value={text}
        placeholder={row.margin === null ? "" : typed(row.margin * 100)}
        inputMode="decimal"
        onChange={(e) => setEdited(e.currentTarget.value)}
        onBlur={() => void save()}
        error={wrong ? "a number above 0, up to 1000" : undefined}
      />
    </form>
  );
}

const percent = (share: number) => `${short(Math.round(share * 1000) / 10)} %`;

function wordsOf(row: Schemas["PowerRow"], wanted: number): string {
  const detected = detectableBy(row, wanted);
  const what = detected === null || detected > MOST_SHOWN ? `${String(wanted)} of each detect next to nothing` : `${String(wanted)} of each detect ${percent(detected)} and more`;
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
      <h2>Cost and time</h2>
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
