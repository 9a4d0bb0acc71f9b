import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";

import type { Schemas } from "../../api/client";
import { dayOptions } from "../../api/queries/day";
import { Empty, ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { atMinute, timeLeft } from "../../ui/format";
import { useNow } from "../../ui/useNow";
import { LinkButton } from "../../ui/LinkButton";
import { Swatch } from "../../ui/Swatch";
import { Outdated } from "../rigs/Outdated";
import css from "./day.module.css";
import { dayAfter, daysUntil, useFollowUps } from "./followUps";
import { Settled } from "./LookAgain";

type Item = Schemas["DayItem"];

const PARTS = [
  { state: "late", title: "Late", hint: "should have happened already" },
  { state: "due", title: "Due", hint: "wants a hand now" },
  { state: "running", title: "Running", hint: "goes on by itself" },
  { state: "doubt", title: "To decide", hint: "somebody should look" },
] as const;

/** What runs, what is due, what is late, what waits for a decision. */
export function DayPage() {
  const day = useQuery(dayOptions());
  const now = useNow();
  const change = useFollowUps();
  if (day.isPending) return <Waiting what="Reading the day …" />;
  if (day.isError) return <ErrorNote error={day.error} again={() => void day.refetch()} />;
  const items = day.data.items;
  if (!items.length) {
    return (
      <Empty title="Nothing waits">
        <Outdated />
        <Settled change={change} />
        No dryer runs, no spool waits to be checked, no specimen to be tested. The stock is where it begins: register a material, take in a spool.
        <div style={{ marginTop: 16 }}>
          <LinkButton to="/stock">
            To the stock
          </LinkButton>
        </div>
      </Empty>
    );
  }
  const date = new Intl.DateTimeFormat("en-GB", { weekday: "long", day: "numeric", month: "long" }).format(now);
  return (
    <div className={`page ${css.page}`}>
      <h1 data-title={`Day sheet, ${date}`}>{date}</h1>
      <p className={css.also}>
        <Link to="/doubts">Doubts about results, in all studies</Link>
      </p>
      <Outdated />
      <Settled change={change} />
      <Refusal text={change.problem} />
      <div className={css.parts}>
        {PARTS.map(({ state, title, hint }) => {
          const own = items.filter((i) => i.state === state);
          if (!own.length) return null;
          return (
            <section key={state} className={css.part} data-state={state} aria-label={title}>
              <h2>
                {title} <span className={`figure ${css.count}`}>{own.length}</span> <span className={css.hint}>{hint}</span>
              </h2>
              <ul className={css.list}>
                {own.map((item) => (
                  <Entry key={`${item.kind}-${item.spool_id ?? item.drying_id ?? item.material_id ?? item.study_id ?? item.test_id ?? item.rig_id ?? item.trail_id ?? item.code}-${item.text}`} item={item} now={now} change={change} />
                ))}
              </ul>
            </section>
          );
        })}
      </div>
    </div>
  );
}

function Entry({ item, now, change }: { item: Item; now: number; change: ReturnType<typeof useFollowUps> }) {
  return (
    <li className={css.entry}>
      <span className={css.swatches}>
        {item.swatches.slice(0, 5).map((s, i) => (
          <Swatch key={i} hex={s.hex} mark={s.mark} filled={s.filled} size={26} />
        ))}
      </span>
      <div className={css.words}>
        <strong>
          <Target item={item}>{item.title}</Target>
        </strong>
        <span className="soft">{item.kind === "oven" && item.since ? `${item.text}, ${ago(now - new Date(item.since).getTime())}` : item.text}</span>
      </div>
      {item.follow_up && (
        <span className={css.settle}>
          <span className="soft">{daysUntil(item.follow_up.due_on, new Date(now))}</span>
          <Button size="xs" variant="default" aria-label={`Settled: ${item.text}`} onClick={() => item.follow_up && void change.settle(item.follow_up)}>
            Settled
          </Button>
          <Button size="xs" variant="subtle" aria-label={`Put off 7 days: ${item.text}`} onClick={() => item.follow_up && void change.putOff(item.follow_up, dayAfter(7, new Date(now)))}>
            put off 7 days
          </Button>
        </span>
      )}
      {item.until && item.since && <Clock since={item.since} until={item.until} now={now} />}
      <span className={css.act}>
        <Target item={item}>{ACTS[item.kind]}</Target>
      </span>
    </li>
  );
}

const ago = (ms: number) => (ms < 60_000 ? "just now" : ms < 120 * 60_000 ? `${String(Math.floor(ms / 60_000))} min ago` : `${String(Math.floor(ms / 3_600_000))} h ago`);

const ACTS: Record<Item["kind"], string> = {
  dryer: "Drying →",
  intake: "Check it →",
  "to dry": "Dry it →",
  contradiction: "Dossier →",
  "to print": "Print →",
  specimens: "Board →",
  round: "Round →",
  calibration: "Calibrate →",
  backup: "Make one →",
  trial: "Trail →",
  wet: "Spool →",
  "follow-up": "Look →",
  oven: "Oven →",
};

function Target({ item, children }: { item: Item; children: string }) {
  if (item.kind === "follow-up") return <Subject item={item}>{children}</Subject>;
  if (item.kind === "dryer") return <Link to="/stock/drying">{children}</Link>;
  if (item.kind === "to dry") return <Link to="/stock/drying" search={{ spool: item.spool_id ?? undefined }}>{children}</Link>;
  if (item.kind === "intake") return <Link to="/stock/intake" search={{ spool: item.spool_id ?? undefined }}>{children}</Link>;
  if (item.kind === "contradiction") return <Link to="/stock/materials/$materialId" params={{ materialId: item.material_id ?? "" }}>{children}</Link>;
  if (item.kind === "round") return <Link to="/bench/racks/$rigId" params={{ rigId: item.rig_id ?? "" }}>{children}</Link>;
  if (item.kind === "calibration") return <Link to="/rigs/$rigId" params={{ rigId: item.rig_id ?? "" }}>{children}</Link>;
  if (item.kind === "oven") return <Link to="/bench/oven/$testId" params={{ testId: item.test_id ?? "" }}>{children}</Link>;
  if (item.kind === "trial") return <Link to="/dial-in/$trailId" params={{ trailId: item.trail_id ?? "" }}>{children}</Link>;
  if (item.kind === "wet") return <Link to="/stock/spools/$spoolId" params={{ spoolId: item.spool_id ?? "" }}>{children}</Link>;
  if (item.kind === "backup") return <Link to="/safekeeping">{children}</Link>;
  if (item.kind === "to print") return <Link to="/studies/$studyId/print" params={{ studyId: item.study_id ?? "" }}>{children}</Link>;
  return <Link to="/studies/$studyId/board" params={{ studyId: item.study_id ?? "" }}>{children}</Link>;
}

/** The page of what a follow-up is about. */
function Subject({ item, children }: { item: Item; children: string }) {
  if (item.code) return <Link to="/c/$code" params={{ code: item.code }}>{children}</Link>;
  if (item.material_id) return <Link to="/stock/materials/$materialId" params={{ materialId: item.material_id }}>{children}</Link>;
  if (item.spool_id) return <Link to="/stock/spools/$spoolId" params={{ spoolId: item.spool_id }}>{children}</Link>;
  if (item.rig_id) return <Link to="/rigs/$rigId" params={{ rigId: item.rig_id }}>{children}</Link>;
  if (item.trail_id) return <Link to="/dial-in/$trailId" params={{ trailId: item.trail_id }}>{children}</Link>;
  return <Link to="/studies/$studyId/board" params={{ studyId: item.study_id ?? "" }}>{children}</Link>;
}

/** How far a device has come, and the time left. */
function Clock({ since, until, now }: { since: string; until: string; now: number }) {
  const start = new Date(since).getTime();
  const end = new Date(until).getTime();
  const share = Math.min(1, Math.max(0, (now - start) / (end - start)));
  return (
    <div className={css.clock}>
      <span className="figure">{timeLeft(end - now)}</span>
      <svg width="150" height="8" role="img" aria-label={`${Math.round(share * 100)} % of the time has passed`}>
        <rect width="150" height="8" rx="4" fill="var(--raised)" stroke="var(--line)" />
        <rect width={150 * share} height="8" rx="4" fill="var(--accent)" />
      </svg>
      <span className="soft">until {atMinute(until)}</span>
    </div>
  );
}
