import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { factorsOptions } from "../../api/queries/studies";
import { FigureFrame } from "../../figures/FigureFrame";
import { type LevelLine, LevelLines } from "../../figures/LevelLines";
import { SweepCurve } from "../../figures/SweepCurve";
import { capital, fixed, interval, signed } from "../../ui/format";
import { shownQuantity } from "../../ui/units";
import css from "./findings.module.css";
import { effectRows, effectWords, sweepWords } from "./factors";

type View = Schemas["FactorsView"];

interface FactorsProps {
  findings: Schemas["Findings"];
  doubts: readonly string[];
}

/** How the factors of a study act, alone and together; of one setting, its sweep. Nothing where a study has one factor without numbers. */
export function Factors({ findings, doubts }: FactorsProps) {
  const found = useQuery({ ...factorsOptions(findings.test.id, findings.quantity.name), enabled: !findings.quantity.derived });
  const data = found.data;
  if (!data || findings.quantity.derived || data.test_id !== findings.test.id) return null;
  if (data.sweep) return <SweepOf findings={findings} view={data} sweep={data.sweep} doubts={doubts} />;
  if (data.factors.length < 2 || data.cells.length < 3) return null;
  return <Together findings={findings} view={data} doubts={doubts} />;
}

function Together({ findings, view, doubts }: FactorsProps & { view: View }) {
  const shown = shownQuantity(view.quantity);
  // a line for each level of one factor; the last factor is the axis, until another is chosen
  const [chosen, setChosen] = useState<number | null>(null);
  const axis = chosen ?? view.factors.length - 1;
  const other = axis === 0 ? 1 : 0;
  const [over, of] = [view.factors[axis], view.factors[other]];
  if (!over || !of) return null;
  const swatchOf = (level: string): LevelLine["swatch"] => {
    const arms = findings.arms.filter((a) => view.cells.some((c) => c.arm_id === a.arm.id && c.levels[other] === level));
    const arm = arms[0]?.arm;
    return of.name === "material" && arm ? { hex: arm.material.hex, mark: arm.material.mark, filled: arm.material.filler !== null } : null;
  };
  const lines = of.levels.map((level): LevelLine => ({
    name: level,
    swatch: swatchOf(level),
    cells: over.levels.map((l) => {
      const cells = view.cells.filter((c) => c.levels[axis] === l && c.levels[other] === level);
      const [only] = cells;
      if (!only) return null;
      // over further factors: the mean of the cells, without an interval
      return { mean: shown.at(cells.reduce((sum, c) => sum + c.mean, 0) / cells.length), ci95: cells.length === 1 && only.ci95 ? shown.ends(only.ci95) : null };
    }),
  }));
  const label = [capital(view.quantity.label), shown.unit].filter(Boolean).join(", ");
  return (
    <section aria-label="Factors together" className={css.factors}>
      <FigureFrame title={`${capital(of.name)} and ${over.name} together`} name={`${findings.test.label} factors`} about={{ kind: "study", name: findings.study.title }} rows={() => effectRows(view)} doubts={doubts} aside={view.factors.length > 1 && <Axis factors={view.factors} axis={axis} onAxis={setChosen} />}>
        <LevelLines lines={lines} levels={over.levels} factor={over.name} label={label} />
      </FigureFrame>
      <div>
        {view.reason && <p className="soft">{capital(view.reason)}: no effects are given.</p>}
        <ul className={css.effects} aria-label="Effects">
          {view.effects.map((e) => {
            const { name, said } = effectWords(e);
            return (
              <li key={name} data-clear={e.stands_out || undefined}>
                <strong>{name}</strong>
                <span className="figure">
                  {signed(e.difference * shown.factor, 2)} {shown.unit} {e.ci95 && <span className="soft">[{interval([e.ci95[0] * shown.factor, e.ci95[1] * shown.factor])}]</span>}
                </span>
                <span className="soft">{said}</span>
              </li>
            );
          })}
        </ul>
        {view.stands_out_from !== null && (
          <p className="soft">
            Without replicates: an effect beyond {fixed(view.stands_out_from * shown.factor, 2)} {shown.unit} stands out (Lenth).
          </p>
        )}
      </div>
    </section>
  );
}

/** Which factor the axis shows. */
function Axis({ factors, axis, onAxis }: { factors: View["factors"]; axis: number; onAxis: (i: number) => void }) {
  return (
    <span role="group" aria-label="Along the axis" className={css.axis}>
      {factors.map((f, i) => (
        <button key={f.name} type="button" className={css.act} aria-pressed={i === axis} onClick={() => onAxis(i)}>
          over {f.name}
        </button>
      ))}
    </span>
  );
}

function SweepOf({ findings, view, sweep, doubts }: FactorsProps & { view: View; sweep: Schemas["SweepView"] }) {
  const shown = shownQuantity(view.quantity);
  const place = (p: readonly [number, number]) => [p[0], shown.at(p[1])] as const;
  const setting = [capital(sweep.label), sweep.unit].filter(Boolean).join(", ");
  const label = [capital(view.quantity.label), shown.unit].filter(Boolean).join(", ");
  return (
    <section aria-label="Sweep" className={css.factors}>
      <FigureFrame title={`${capital(view.quantity.label)} over ${sweep.label}`} name={`${findings.test.label} sweep`} about={{ kind: "study", name: findings.study.title }} rows={() => [[sweep.label, view.quantity.label], ...sweep.points.map((p) => [...place(p)])]} doubts={doubts}>
        <SweepCurve points={sweep.points.map(place)} levels={sweep.levels.map((l) => ({ ...l, mean: shown.at(l.mean) }))} curve={sweep.curve.map(place)} best={sweep.best_level} optimum={sweep.optimum} optimumInterval={sweep.optimum_ci95} maker={sweep.maker_window} setting={setting} label={label} />
      </FigureFrame>
      <div>
        {sweepWords(sweep, (v) => `${fixed(v * shown.factor, 2)} ${shown.unit}`).map((text) => (
          <p key={text}>{text}</p>
        ))}
      </div>
    </section>
  );
}
