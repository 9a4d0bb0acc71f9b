import { Button } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useEffect, useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { declarationsOfDialIn, sheetOptions, takeTrail, trailOptions } from "../../api/queries/dialIn";
import { materialsOptions } from "../../api/queries/stock";
import { AddOne } from "../../ui/AddOne";
import { announce } from "../../ui/announce";
import { amount, atMinute, durationWords, short } from "../../ui/format";
import { LinkButton } from "../../ui/LinkButton";
import { ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { Swatch } from "../../ui/Swatch";
import { Calibrations } from "./Calibrations";
import { Changes } from "./Changes";
import { Effects } from "./Effects";
import { headOf } from "./layout";
import { NextSteps } from "./NextSteps";
import { LookAgain } from "../day/LookAgain";
import { Photos } from "../photos/Photos";
import { isUnplanned, unplanned, useNextIds } from "./nextTrial";
import { towerFile, TowerPlan } from "./TowerPlan";
import { GradeList } from "./GradeList";
import { hasRecordDraft } from "./useRecord";
import css from "./trail.module.css";
import { TrailPath } from "./TrailPath";
import { TrialRecord } from "./TrialRecord";
import { useTrail } from "./useTrail";
import { outcomeWords, printsGood, type Trial } from "./words";

/** The search for settings of a material: its trials as a path, what each change did, what to try next. */
export function TrailPage() {
  const { trailId } = useParams({ from: "/dial-in/$trailId" });
  const trail = useQuery(trailOptions(trailId));
  const declared = useQuery(declarationsOfDialIn());
  if (trail.isError || declared.isError) return <ErrorNote error={trail.error ?? declared.error} again={() => void trail.refetch()} />;
  if (trail.isPending || declared.isPending) return <Waiting what="Reading the trail …" />;
  return <Shown trail={trail.data} declared={declared.data} />;
}

interface ShownProps {
  trail: Schemas["TrailView"];
  declared: Schemas["DialInDeclarations"];
}

/** The traits that stand under the bars: those graded most in this trail, six at most: as many as fit a card. */
function barTraits(trail: Schemas["TrailView"], traits: readonly Schemas["TraitView"][]) {
  const times = (name: string) => trail.trials.filter((t) => t.grades[name] !== undefined).length;
  const most = [...traits].filter((t) => times(t.name) > 0).sort((a, b) => times(b.name) - times(a.name)).slice(0, 6);
  return traits.filter((t) => most.includes(t));
}

function Shown({ trail, declared }: ShownProps) {
  const search = useSearch({ from: "/dial-in/$trailId" });
  const navigate = useNavigate();
  const { next, retract } = useTrail();
  const [problem, setProblem] = useState<string | null>(null);
  const [gone, setGone] = useState<Trial | null>(null);
  const at = trail.trials.find((t) => t.number === search.trial) ?? headOf(trail.trials, trail.current?.trial_id ?? null);
  const { ids, begin, forget } = useNextIds(trail.id);
  const nextId = search.next && at ? ids[at.id] : undefined;
  const made = trail.trials.find((t) => t.id === nextId);
  const chosen = made ?? (nextId && at ? unplanned(trail, at, nextId) : at);
  useEffect(() => {
    // its first entry has made it: from here on it is a trial as any other
    if (!made) return;
    forget(made.id);
    choose(made.number);
    announce(`Trial ${String(made.number)} is planned.`);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [made?.id]);
  const choose = (number: number, record = false) => void navigate({ to: "/dial-in/$trailId", params: { trailId: trail.id }, search: { trial: number, ...(record ? { record: true } : {}) }, replace: true, resetScroll: false });
  const attempt = async (act: () => Promise<Schemas["TrailView"]>) => {
    try {
      setProblem(null);
      const after = await act();
      const last = after.trials.at(-1);
      if (last) choose(last.number);
      announce(`Trial ${String(last?.number)} is planned.`);
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const go = () => {
    if (!chosen || chosen.outcome === "planned") return;
    begin(chosen);
    void navigate({ to: "/dial-in/$trailId", params: { trailId: trail.id }, search: { trial: chosen.number, next: true }, resetScroll: false });
  };
  useHotkeys([["t", go], ["r", () => chosen && !isUnplanned(chosen) && choose(chosen.number, true)]]);
  const traits = barTraits(trail, declared.traits);
  const untold = new Set(trail.trials.filter((t) => trail.untold.some((u) => u.number === t.number)).map((t) => t.id));
  return (
    <div className="page">
      <Head trail={trail} />
      {trail.wet.map((w) => (
        <p key={w.spool_id} className={css.wet} role="alert">
          <strong>Found wet:</strong> {w.words}. <Link to="/stock/spools/$spoolId" params={{ spoolId: w.spool_id }}>Spool {w.code}</Link>
        </p>
      ))}
      <Refusal text={problem} />
      {gone && (
        <p role="status" className={css.wet}>
          Trial {gone.number} was taken back.{" "}
          <Button
            size="compact-sm"
            variant="default"
            onClick={() => void attempt(() => retract(gone, true)).then(() => setGone(null))}
          >
            Bring it back
          </Button>
        </p>
      )}
      <div className={css.grid}>
        <div>
          <TrailPath trail={trail} traits={traits} chosen={at} compact={untold} onChoose={(t) => choose(t.number)} onNext={go} />
          {traits.length > 0 && <p className={css.legend}>bars, each 0 to 4: {traits.map((t) => t.short).join(" · ")}</p>}
          <div className={css.below} data-wide={search.record || chosen?.outcome === "planned" || undefined}>
            {!search.record && chosen?.outcome !== "planned" && (
              <Effects trail={trail} traits={declared.traits} settings={declared.settings} onMissing={(u) => void attempt(() => next(trail.trials.find((t) => t.number === u.start) as Trial, { changes: { [u.missing.name]: u.missing.after as never } }))} />
            )}
            {chosen && <AtTrial key={chosen.id} trail={trail} trial={chosen} declared={declared} recording={Boolean(search.record)} onRecord={(on) => choose(chosen.number, on)} onNext={go} onGone={setGone} onControl={(material) => void attempt(() => next(chosen, { control_material_id: material }))} />}
          </div>
        </div>
        <div>
          {chosen && <NextSteps trail={trail} from={chosen.outcome === "planned" ? (trail.trials.find((t) => t.id === chosen.parent_id) ?? chosen) : chosen} symptoms={declared.symptoms} onPlanned={choose} />}
          <LookAgain kind="trail" id={trail.id} />
        </div>
      </div>
    </div>
  );
}

function Head({ trail }: { trail: Schemas["TrailView"] }) {
  const m = trail.material;
  const p = trail.printability;
  return (
    <div className={css.head}>
      <Swatch hex={m.hex} mark={m.mark} filled={m.filler !== null} size={44} title={`${m.maker} ${m.product}, ${m.colour}`} />
      <div>
        <h1 data-title={`Dial-in: ${m.maker} ${m.product}, ${trail.purpose}`}>
          {m.maker} {m.product}, {m.colour}
        </h1>
        <p className="soft">
          {trail.purpose} on {trail.printer_name}
          {trail.nozzle && ` · ${trail.nozzle}`}
          {p && ` · ${printsGood(p.good, p.printed, p.controls)} (95 %: ${short(Math.round(p.low * 100))}–${short(Math.round(p.high * 100))} %)`}
        </p>
      </div>
      <div className={css.sheet}>
        {trail.current ? (
          <>
            <span className="soft">current sheet</span>
            <br />
            <Link to="/dial-in/sheets/$sheetId" params={{ sheetId: trail.current.sheet_id }}>
              <strong>from trial {trail.current.trial_number}</strong>
            </Link>{" "}
            <span className="soft">since {atMinute(trail.current.accepted_at)}</span>
          </>
        ) : (
          <span className="soft">no sheet accepted yet</span>
        )}
        <br />
        <PutAway trail={trail} />
      </div>
    </div>
  );
}

/** A trail that is done with, out of the way of the day sheet. */
function PutAway({ trail }: { trail: Schemas["TrailView"] }) {
  const queries = useQueryClient();
  const act = async () => {
    takeTrail(queries, unwrap<Schemas["TrailView"]>(await client.PATCH("/api/trails/{trail_id}", { params: { path: { trail_id: trail.id }, header: { "if-match": `"${String(trail.revision)}"` } }, body: { put_away: !trail.put_away } })));
  };
  return (
    <Button size="compact-sm" variant="subtle" onClick={() => void act()}>
      {trail.put_away ? "take it up again" : "put away"}
    </Button>
  );
}

interface AtTrialProps {
  trail: Schemas["TrailView"];
  trial: Trial;
  declared: Schemas["DialInDeclarations"];
  recording: boolean;
  onRecord: (on: boolean) => void;
  onNext: () => void;
  onGone: (trial: Trial) => void;
  onControl: (materialId: string) => void;
}

/** One trial: planned, with what it is to change; or printed, with what came of it. */
function AtTrial({ trail, trial, declared, recording, onRecord, onNext, onGone, onControl }: AtTrialProps) {
  const sheet = useQuery(sheetOptions(trial.sheet_id));
  const { retract, plan } = useTrail();
  const [problem, setProblem] = useState<string | null>(null);
  const act = (what: () => Promise<unknown>) => void what().then(() => setProblem(null), (error: unknown) => setProblem(messageOf(error)));
  const planned = trial.outcome === "planned";
  const open = recording || hasRecordDraft(trial.id);
  const others = trail.trials.filter((t) => t.id !== trial.id).flatMap((t) => t.photos.slice(-1).map((p) => p.id));
  const isCurrent = trail.current?.trial_id === trial.id;
  return (
    <section className={css.trial} aria-label={`Trial ${String(trial.number)}`}>
      <h2>
        Trial {trial.number} <span className={css.hint}>{isUnplanned(trial) ? `from trial ${String(trail.trials.find((t) => t.id === trial.parent_id)?.number)}, planned with your first entry` : planned ? "planned: what does it change, and how did it come out?" : `${trial.part}, ${outcomeWords(trial)}${trial.decision ? `, ${trial.decision}` : ""}`}</span>
      </h2>
      {planned && <Changes trial={trial} sheet={sheet.data?.sheet} settings={declared.settings} />}
      {sheet.data?.look.warnings.map((w) => (
        <p key={w.name + w.text} style={{ color: "var(--caution)", margin: 0 }}>
          {w.text}
        </p>
      ))}
      {(planned || open) && <TrialRecord key={`${trial.id}-${String(recording)}`} trial={trial} trail={trail} declared={declared} onDone={() => onRecord(false)} />}
      {!planned && !open && <Facts trial={trial} traits={declared.traits} />}
      {!planned && <Photos subject={{ kind: "trial", id: trial.id }} photos={trial.photos} beside={others} />}
      <Refusal text={problem} />
      <div className={css.acts}>
        {!planned && !open && (
          <Done trial={trial} isCurrent={isCurrent} trailId={trail.id} onNext={onNext} onRecord={() => onRecord(true)} act={act} />
        )}
        {planned && trial.series && <OfTower trail={trail} trial={trial} series={trial.series} />}
        <Link to="/dial-in/sheets/$sheetId" params={{ sheetId: trial.sheet_id }}>
          its sheet
        </Link>
        {trial.parent_id && trial.changes.length > 0 && (
          <Link to="/dial-in/sheets/$sheetId" params={{ sheetId: trial.sheet_id }} search={{ with: trail.trials.find((t) => t.id === trial.parent_id)?.sheet_id }}>
            beside the one before
          </Link>
        )}
        {isUnplanned(trial) && (
          <Button size="xs" variant="default" onClick={() => act(() => plan(trial))}>
            Plan it with the same settings
          </Button>
        )}
        {trial.parent_id && !isUnplanned(trial) && (
          <Button size="compact-sm" variant="subtle" onClick={() => act(() => retract(trial).then(() => onGone(trial)))}>
            take it back
          </Button>
        )}
      </div>
      {!planned && !open && (
        <>
          <p style={{ margin: 0 }}>
            <Link to="/dial-in/gcode" search={{ trial: trial.id }}>
              Inspect its G-code file
            </Link>
          </p>
          <Control onPick={onControl} own={trail.material.id} />
          <TowerPlan trail={trail} from={trial} stepped={declared.stepped} />
          <Calibrations trail={trail} from={trial} />
        </>
      )}
    </section>
  );
}

interface DoneProps {
  trial: Trial;
  isCurrent: boolean;
  trailId: string;
  onNext: () => void;
  onRecord: () => void;
  act: (what: () => Promise<unknown>) => void;
}

/** What may be done with a trial that was printed. */
function Done({ trial, isCurrent, trailId, onNext, onRecord, act }: DoneProps) {
  const { accept, dry } = useTrail();
  return (
    <>
      <Button size="xs" onClick={onNext}>
        Next trial <kbd style={{ marginLeft: 6 }}>T</kbd>
      </Button>
      <Button size="xs" variant="default" onClick={() => onRecord()}>
        Change the record <kbd style={{ marginLeft: 6 }}>R</kbd>
      </Button>
      {trial.series && (
        <LinkButton to="/dial-in/$trailId/towers/$trialId" params={{ trailId, trialId: trial.id }} size="xs">
          Grade the bands
        </LinkButton>
      )}
      {(trial.outcome === "good" || trial.outcome === "poor") && !trial.series && !trial.control && (
        <Button size="xs" variant="default" onClick={() => act(() => accept(trial, isCurrent))}>
          {isCurrent ? "No longer the current sheet" : "Accept its sheet"}
        </Button>
      )}
      {trial.symptoms.includes("popping") && trial.spool_id && (
        <Button size="xs" variant="default" onClick={() => act(() => dry(trial))}>
          Plan drying and a repeat
        </Button>
      )}
    </>
  );
}

/** What a tower needs before it is printed: its page, its solids, and the file it is stepped in. */
function OfTower({ trail, trial, series }: { trail: Schemas["TrailView"]; trial: Trial; series: Schemas["SeriesView"] }) {
  const { setting, start, step, count, band_height, base_height } = series;
  const told = { setting, start, step, count, band_height, base_height };
  return (
    <>
      <Link to="/dial-in/$trailId/towers/$trialId" params={{ trailId: trail.id, trialId: trial.id }}>
        its bands
      </Link>
      <a href={towerFile(told, "stl")} download>
        solid as STL
      </a>
      <a href={towerFile(told, "3mf")} download>
        solid as 3MF
      </a>
      <Link to="/dial-in/gcode" search={{ trial: trial.id }}>
        step it in its G-code file
      </Link>
    </>
  );
}

/** Another material under the same hold-down and settings: it tells the material from the surface. */
function Control({ onPick, own }: { onPick: (materialId: string) => void; own: string }) {
  const materials = useQuery(materialsOptions());
  const others = (materials.data?.items ?? []).filter((m) => m.id !== own);
  return others.length ? <AddOne label="A control print of another material" maw={340} data={others.map((m) => ({ value: m.id, label: `${m.maker} ${m.product}, ${m.colour}` }))} onAdd={onPick} /> : null;
}

/** What came of a trial, in words. */
function Facts({ trial: t, traits }: { trial: Trial; traits: readonly Schemas["TraitView"][] }) {
  const mass = t.total_mass === null ? "" : `${amount(t.total_mass, "g", 1)}${t.waste ? `, of it ${amount(t.waste, "g", 1)} waste` : ""}`;
  const told = [
    t.minutes === null ? "" : durationWords(t.minutes),
    mass,
    t.lift === null ? "" : `corners lift ${amount(t.lift, "mm", 1)}`,
    t.room === null ? "" : `room ${amount(t.room, "°C", 0)}`,
    t.spool_code ? `spool ${t.spool_code}` : "",
    t.removal && `removed ${t.removal}`,
    t.tested && `tested ${t.tested}`,
    t.bond,
    ...t.symptoms,
    ...t.while_running.map((c) => `layer ${String(c.layer)}: ${c.what}`),
    ...Object.entries(t.apart).map(([trait, by]) => `graders differ by ${short(by)} on ${trait.replace("_", " ")}`),
  ].filter(Boolean);
  return (
    <>
      <p className={css.facts}>{told.join(" · ") || "Nothing but its outcome was noted."}</p>
      <GradeList grades={t.grades} traits={traits} />
      {t.note && <p className={css.facts}>{t.note}</p>}
      {t.windows.map((w) => (
        <p key={w.reading} className={css.facts}>
          <strong>{w.reading}:</strong> {w.words}
        </p>
      ))}
    </>
  );
}
