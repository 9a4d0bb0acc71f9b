import { Button } from "@mantine/core";
import { useLocalStorage } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useEffect, useState } from "react";

import { messageOf, type Schemas } from "../../api/client";
import { declarationsOfDialIn, trailOptions } from "../../api/queries/dialIn";
import { useIds } from "../../api/useIds";
import { announce } from "../../ui/announce";
import { short } from "../../ui/format";
import { Empty, ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { shownUnit } from "../../ui/units";
import { Photos } from "../photos/Photos";
import css from "./tower.module.css";
import { towerFile } from "./TowerPlan";
import { useTrail } from "./useTrail";
import type { Trial } from "./words";

const USUAL = ["bridging", "overhang", "stringing", "surface", "layers", "fine_detail"];

/** A tower graded band by band, one trait at a time. */
export function TowerPage() {
  const { trailId, trialId } = useParams({ from: "/dial-in/$trailId/towers/$trialId" });
  const trail = useQuery(trailOptions(trailId));
  const declared = useQuery(declarationsOfDialIn());
  if (trail.isError || declared.isError) return <ErrorNote error={trail.error ?? declared.error} again={() => void trail.refetch()} />;
  if (trail.isPending || declared.isPending) return <Waiting what="Reading the tower …" />;
  const trial = trail.data.trials.find((t) => t.id === trialId);
  if (!trial?.series) return <Empty title="This trial is no tower">Plan one from any trial of the trail.</Empty>;
  return <Graded trail={trail.data} trial={trial} series={trial.series} traits={declared.data.traits.filter((t) => USUAL.includes(t.name))} />;
}

interface GradedProps {
  trail: Schemas["TrailView"];
  trial: Trial;
  series: Schemas["SeriesView"];
  traits: readonly Schemas["TraitView"][];
}

type Drafts = Record<string, Record<string, number | null>>;

/** The grades of a tower as they are given: by trait and band, kept in this browser until the server has taken them. */
function useTower({ trial, series, traits }: GradedProps) {
  const [name, setName] = useState(traits[0]?.name ?? "");
  const [drafts, setDrafts, forget] = useLocalStorage<Drafts>({ key: `assayer.tower.${trial.id}`, defaultValue: {}, getInitialValueInEffect: false });
  const [band, setBand] = useState(1);
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const { grade } = useTrail();
  const ids = useIds();
  const last = trial.failed_band ? trial.failed_band - 1 : series.count;
  const typed = drafts[name] ?? {};
  const open = Object.values(drafts).reduce((n, own) => n + Object.keys(own).length, 0);
  const turn = (trait: string) => {
    setName(trait);
    setBand(1);
  };
  const put = (at: number, value: number | null) => {
    setDrafts((before) => ({ ...before, [name]: { ...before[name], [at]: value } }));
    announce(`Band ${String(at)}: ${value === null ? "no difference seen" : `${String(value)} of 4`}`);
    if (at < last) setBand(at + 1);
  };
  const keep = async () => {
    setBusy(true);
    try {
      const grades = Object.entries(drafts).flatMap(([t, own]) => Object.entries(own).map(([b, g]) => ({ id: ids.of(`${t} ${b} ${String(g)}`), trait: t, grade: g, band: Number(b), distance: "near" as const })));
      await grade(trial, grades);
      ids.forget();
      forget();
      setProblem(null);
      announce("The grades are kept.");
    } catch (error) {
      setProblem(messageOf(error));
    }
    setBusy(false);
  };
  const keys = (e: React.KeyboardEvent) => {
    const at = traits.findIndex((t) => t.name === name);
    if (/^[0-4]$/.test(e.key)) put(band, Number(e.key));
    else if (e.key.toLowerCase() === "n") put(band, null);
    else if (e.key === "ArrowUp") setBand(Math.min(last, band + 1));
    else if (e.key === "ArrowDown") setBand(Math.max(1, band - 1));
    else if (e.key === "ArrowRight" || e.key === "ArrowLeft") turn(traits[(at + (e.key === "ArrowRight" ? 1 : traits.length - 1)) % traits.length]?.name ?? name);
    else if (e.key === "Enter" && open) void keep();
    else return;
    e.preventDefault();
  };
  const gradeOf = (b: number) => (b in typed ? typed[b] : trial.bands[b - 1]?.[name]);
  return { name, turn, band, setBand, put, keep, keys, gradeOf, open, busy, problem };
}

function Graded(props: GradedProps) {
  const { trail, trial, series, traits } = props;
  const tower = useTower(props);
  const trait = traits.find((t) => t.name === tower.name);
  useEffect(() => document.getElementById("tower")?.focus(), []);
  if (!trait) return null;
  const { band } = tower;
  return (
    <div className="page">
      <h1>
        Tower of trial {trial.number}: {series.label}
      </h1>
      <p className="soft">
        {trail.material.maker} {trail.material.product} ·{" "}
        <Link to="/dial-in/$trailId" params={{ trailId: trail.id }} search={{ trial: trial.number }}>
          its trail
        </Link>{" "}
        · solid as{" "}
        <a href={towerFile(series, "stl")} download>
          STL
        </a>{" "}
        or{" "}
        <a href={towerFile(series, "3mf")} download>
          3MF
        </a>
      </p>
      <div className={css.traits} role="tablist" aria-label="Trait">
        {traits.map((t) => (
          <button key={t.name} type="button" role="tab" aria-selected={t.name === trait.name} className={css.trait} onClick={() => tower.turn(t.name)}>
            {t.label}
          </button>
        ))}
      </div>
      <div className={css.grid}>
        <div id="tower" tabIndex={0} role="group" aria-label={`Bands graded for ${trait.label}: 0 to 4 by key, arrows move, N for no difference, Enter keeps`} onKeyDown={tower.keys} className={css.tower}>
          <Drawing series={series} failed={trial.failed_band} at={band} gradeOf={tower.gradeOf} onPick={tower.setBand} />
        </div>
        <div>
          <h2>
            {trait.label}, band {band}: {short(shownUnit(series.unit).at(series.values[band - 1] ?? 0))} {shownUnit(series.unit).unit}
          </h2>
          <Steps trait={trait} grade={tower.gradeOf(band)} onGrade={(g) => tower.put(band, g)} />
          <Refusal text={tower.problem} />
          <Button loading={tower.busy} disabled={!tower.open} onClick={() => void tower.keep()}>
            Keep {tower.open || ""} {tower.open === 1 ? "grade" : "grades"} <kbd style={{ marginLeft: 8 }}>Enter</kbd>
          </Button>
          {trial.failed_band && <p className="soft">Band {trial.failed_band} failed: the series ends below it.</p>}
          <Windows windows={trial.windows} />
          <Photos subject={{ kind: "trial", id: trial.id, band }} photos={trial.photos.filter((p) => p.band === band || p.band === null)} beside={trial.photos.map((p) => p.id)} />
        </div>
      </div>
    </div>
  );
}

/** The steps of a trait with their descriptions, one of them chosen. */
function Steps({ trait, grade, onGrade }: { trait: Schemas["TraitView"]; grade: number | null | undefined; onGrade: (grade: number | null) => void }) {
  return (
    <ol start={0} className={css.steps}>
      {trait.steps.map((step, n) => (
        <li key={step}>
          <button type="button" data-on={grade === n || undefined} aria-pressed={grade === n} onClick={() => onGrade(n)}>
            <kbd>{n}</kbd> {step}
          </button>
        </li>
      ))}
      <li>
        <button type="button" data-on={grade === null || undefined} aria-pressed={grade === null} onClick={() => onGrade(null)}>
          <kbd>N</kbd> no difference seen
        </button>
      </li>
    </ol>
  );
}

function Windows({ windows }: { windows: readonly Schemas["BandWindow"][] }) {
  return (
    <>
      <h2 style={{ marginTop: "1.2rem" }}>Read for</h2>
      {windows.length ? (
        <dl className={css.windows}>
          {windows.map((w) => (
            <div key={w.reading}>
              <dt>{w.reading}</dt>
              <dd>{w.words}</dd>
            </div>
          ))}
        </dl>
      ) : (
        <p className="soft">Once bands are graded, the windows for load, bridges, looks and fine detail stand here.</p>
      )}
    </>
  );
}

interface DrawingProps {
  series: Schemas["SeriesView"];
  failed: number | null;
  at: number;
  gradeOf: (band: number) => number | null | undefined;
  onPick: (band: number) => void;
}

/** The tower as it stands on the bed: a bridge, overhangs and the value of each band, its grade beside it. */
function Drawing({ series, failed, at, gradeOf, onPick }: DrawingProps) {
  const height = Math.min(72, 460 / series.count);
  const whole = series.count * height + 26;
  const shown = shownUnit(series.unit);
  return (
    <svg width="330" height={whole} aria-hidden="true">
      {series.values.map((v, i) => {
        const band = i + 1;
        const y = whole - 22 - band * height;
        const gone = failed !== null && band >= failed;
        const grade = gradeOf(band);
        return (
          <g key={band} transform={`translate(0 ${String(y)})`} onClick={() => !gone && onPick(band)} style={{ cursor: gone ? "default" : "pointer" }} opacity={gone ? 0.35 : 1}>
            <rect x="2" y="1" width="326" height={height - 2} fill={band === at ? "var(--raised)" : "none"} stroke={band === at ? "var(--accent)" : "none"} strokeWidth="2" rx="6" />
            <path d={`M28 0 h56 v${String(height)} h-56z M164 0 h34 v${String(height)} h-34z M84 0 h80 v7 h-80z`} fill="var(--surface)" stroke="var(--ink)" strokeWidth="1.3" />
            {[0.45, 0.7, 1].map((reach) => (
              <path key={reach} d={`M198 4 h${String(reach * 42)} l-${String(reach * 42)} ${String((height - 10) * (1.15 - 0.55 * reach))}z`} fill="var(--surface)" fillOpacity="0.6" stroke="var(--ink)" strokeWidth="1.1" />
            ))}
            <path d={`M112 ${String(height)} l4 -${String(height * 0.55)} l4 ${String(height * 0.55)}z M130 ${String(height)} l4 -${String(height * 0.55)} l4 ${String(height * 0.55)}z`} fill="var(--surface)" stroke="var(--ink)" strokeWidth="1" />
            <text x="56" y={height / 2 + 5} textAnchor="middle" fontSize="14" fontFamily="var(--mono)" fill="var(--ink)">
              {short(shown.at(v))}
            </text>
            <text x="300" y={height / 2 + 6} textAnchor="middle" fontSize="18" fontWeight="700" fontFamily="var(--mono)" fill={typeof grade === "number" && grade < 1.5 ? "var(--worse)" : "var(--ink)"}>
              {gone ? "–" : grade === undefined ? "·" : grade === null ? "n" : short(grade)}
            </text>
          </g>
        );
      })}
      <path d={`M8 ${String(whole - 21)} h270`} stroke="var(--ink)" strokeWidth="5" />
      <text x="12" y={whole - 4} fontSize="12" fill="var(--soft)">
        bed · {series.label} in {shown.unit || "steps"}
      </text>
      <text x="300" y={whole - 4} fontSize="12" fill="var(--soft)" textAnchor="middle">
        grade
      </text>
    </svg>
  );
}
