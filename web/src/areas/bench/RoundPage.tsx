import { useLocalStorage } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { rackOptions } from "../../api/queries/bench";
import { type PlaceMark, RackDrawing } from "../../figures/RackDrawing";
import { atMinute } from "../../ui/format";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { Doing } from "./Doing";
import { EndDialog } from "./EndDialog";
import { Hang, RoomEntry } from "./RoundParts";
import { isNow, moreHere, nextPlace, shownValue, slotOf, taskOf } from "./round";
import css from "./round.module.css";
import { useBenchKeys } from "./useBenchKeys";
import { useEnding } from "./useEnding";
import { type Round, useRound } from "./useRound";
import { Amount } from "../../ui/Amount";

/** One walk over all places of a rack: read, keep, next. */
export function RoundPage() {
  const { rigId } = useParams({ from: "/bench/racks/$rigId" });
  const [blind] = useLocalStorage({ key: "assayer.blind", defaultValue: false, getInitialValueInEffect: false });
  const rack = useQuery(rackOptions(rigId, blind));
  if (rack.isError && !rack.data) return <ErrorNote error={rack.error} again={() => void rack.refetch()} />;
  if (!rack.data) return <Waiting what="Looking at the rack …" />;
  return <AtRack key={rigId} rack={rack.data} />;
}

function AtRack({ rack }: { rack: Schemas["RackView"] }) {
  const round = useRound(rack);
  const [notice, setNotice] = useState<string | null>(null);
  const [ending, setEnding] = useState(false);
  const walk = useWalk(rack, round, setNotice);
  const { here, member, task } = walk;
  const end = useEnding(rack, round, () => {
    setEnding(false);
    walk.goOn();
  });
  const ends = (outcome: string | null) => {
    // a question about its end is answered where it is ended
    if (member) void end.end(member, outcome).catch((error: unknown) => setNotice(messageOf(error)));
  };
  const scan = useRackScan(rack, round, walk, setNotice);
  useBenchKeys({
    onBurstMayStart: () => undefined,
    onScan: (text) => void scan(text),
    onGauge: (text) => round.room && member && task?.kind === "reading" && round.type(slotOf(member, task.field, task.index, task.about), text),
    onEnter: () => document.querySelector<HTMLButtonElement>(`[data-go]`)?.click(),
    letters: { n: walk.skip, u: () => void walk.undo(), o: () => member && setEnding(true) },
    dialogOpen: ending || end.question !== null || document.querySelector("[data-asked]") !== null,
  });
  return (
    <div className="page">
      <RackHead rack={rack} round={round} />
      <RackDrawing rack={rack} marks={marksOf(rack, round)} here={here} onPlace={walk.choose} />
      {notice && (
        <p role="status" className={css.notice}>
          {notice}
        </p>
      )}
      {!round.room && (rack.members.length > 0 || rack.waiting.length > 0) ? (
        <RoomEntry rack={rack} onRoom={round.setRoom} />
      ) : member && task ? (
        <Doing key={`${member.run_id}-${task.kind}-${task.kind === "reading" ? `${task.field}-${String(task.index)}-${task.about ?? ""}` : ""}`} rack={rack} member={member} task={task} round={round} next={walk.next} onSkip={walk.skip} onEnd={() => setEnding(true)} onDone={walk.goOn} onEnded={ends} onNotice={setNotice} />
      ) : (
        <Hang rack={rack} place={here ?? firstFree(rack, null)} asked={here !== null} onHang={(item, testId, place) => void round.hang(item, testId, place).then(() => walk.choose(place))} />
      )}
      <RackFoot rack={rack} round={round} />
      {(ending || end.question) && member && (
        <EndDialog
          member={member}
          question={end.question}
          onConfirm={() => void end.confirm(member)}
          onClose={() => {
            setEnding(false);
            end.forget();
          }}
          onEnd={ends}
        />
      )}
    </div>
  );
}

/** Where the round stands: the place at hand, what is to be done there, and the ways on and back. */
function useWalk(rack: Schemas["RackView"], round: Round, say: (text: string | null) => void) {
  const [chosen, choose] = useState<number | null>(null);
  const members = rack.members;
  const { person } = round;
  const here = chosen ?? nextPlace(members, round.kept, round.skipped, -1, person);
  const member = members.find((m) => m.position === here);
  const task = member ? taskOf(member, round.kept, round.skipped, person) : null;
  const next = here === null ? null : nextPlace(members.filter((m) => m.position !== here), round.kept, round.skipped, here, person);
  const goOn = (stay = false) => {
    say(null);
    choose(stay ? here : null);
    if (!stay && here !== null) choose(next);
  };
  const skip = () => {
    if (member && task?.kind === "reading") round.skip(slotOf(member, task.field, task.index, task.about));
    goOn(task?.kind === "reading" && member !== undefined && (member.stage === "hung" || (task.along !== null && moreHere(member, task, round.kept, round.skipped, person))));
  };
  const undo = async () => {
    try {
      const back = await round.undo();
      if (!back) return say("nothing was kept in this round yet");
      choose(members.find((m) => m.run_id === back.runId)?.position ?? null);
      say(`the last entry of ${back.code} was taken back`);
    } catch (error) {
      say(messageOf(error));
    }
  };
  return { here, member, task, next, choose, goOn, skip, undo };
}

/** A scanned code: a frame that hangs here, one that waits to, or another rack. */
function useRackScan(rack: Schemas["RackView"], round: Round, { here, member, choose }: ReturnType<typeof useWalk>, say: (text: string) => void) {
  const navigate = useNavigate();
  return async (text: string) => {
    try {
      const code = unwrap<Schemas["CodeView"]>(await client.GET("/api/codes", { params: { query: { text } } }));
      const found = rack.members.find((m) => m.code === code.code);
      const waiting = rack.waiting.flatMap((w) => w.items.map((item) => ({ item, testId: w.test_id }))).find((w) => w.item.code === code.code);
      const free = firstFree(rack, member ? null : here);
      if (found) choose(found.position);
      else if (waiting && free !== null) {
        await round.hang(waiting.item, waiting.testId, free);
        choose(free);
      } else if (code.kind === "rig") await navigate({ to: "/bench/racks/$rigId", params: { rigId: code.id } });
      else say(waiting ? "every place is taken: take one off first" : `${code.code} does not hang here and does not wait to`);
    } catch (error) {
      say(messageOf(error));
    }
  };
}

const firstFree = (rack: Schemas["RackView"], wanted: number | null): number | null => wanted ?? Array.from({ length: rack.places }, (_, i) => i).find((i) => !rack.members.some((m) => m.position === i)) ?? null;

function marksOf({ members, decimals, unit }: Schemas["RackView"], round: Round): ReadonlyMap<number, PlaceMark> {
  return new Map(
    members.map((m) => {
      const last = round.kept.findLast((k) => k.runId === m.run_id && k.about === null && k.raw !== "");
      const task = taskOf(m, round.kept, round.skipped, round.person);
      const state = task.kind === "reading" && round.skipped.has(slotOf(m, task.field, task.index, task.about)) ? "skipped" : isNow(m, task, round.skipped) ? "open" : last ? "read" : "ahead";
      return [m.position, { read: last ? `${(decimals > 0 ? shownValue(last.raw, decimals)?.toFixed(Math.max(2, decimals)) : null) ?? last.raw} ${unit}` : null, state } satisfies PlaceMark] as const;
    }),
  );
}

function RackHead({ rack, round }: { rack: Schemas["RackView"]; round: Round }) {
  const due = rack.next_due ? `${rack.state === "late" ? "due since" : "next due"} ${atMinute(rack.next_due)}` : null;
  return (
    <div className={css.head}>
      <h1>{rack.method} round</h1>
      <span className="soft">
        {rack.name} · {rack.places} places
        {due && ` · ${due}`}
      </span>
      <span className={css.room}>
        {round.room && (
          <>
            room <span className="figure">{round.room.raw}</span> °C
          </>
        )}
        {rack.room && (
          <span className="soft">
            {round.room ? " · " : ""}last round <Amount value={rack.room.value} unit="°C" decimals={1} />
          </span>
        )}
      </span>
    </div>
  );
}

function RackFoot({ rack, round }: { rack: Schemas["RackView"]; round: Round }) {
  const read = new Set(round.kept.map((k) => k.runId)).size;
  const missed = rack.members.filter((m) => m.due.some((d) => d.state === "missed")).length;
  return (
    <div className={css.foot}>
      <span>
        {read} of {rack.members.length} read in this round
      </span>
      {missed > 0 && <span>{missed} {missed === 1 ? "place has" : "places have"} a missed reading: no error, the curve goes on</span>}
    </div>
  );
}
