import { useState } from "react";

import type { Schemas } from "../../api/client";
import { newId } from "../../api/ids";
import { inText, amount, difference, load } from "../../ui/format";
import { readNumber } from "../../ui/number";
import css from "./round.module.css";
import type { Room } from "./useRound";

/** The room, once a round, before anything else: it decides whether the group stays comparable. */
export function RoomEntry({ rack, onRoom }: { rack: Schemas["RackView"]; onRoom: (room: Room) => void }) {
  const [raw, setRaw] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const [asked, setAsked] = useState(false);
  const value = readNumber(raw);
  const off = typeof value === "number" && rack.usual_room !== null ? value - rack.usual_room : null;
  const keep = () => {
    if (typeof value !== "number" || value < -20 || value > 60) {
      setAsked(false);
      setProblem(raw.trim() ? `${raw} is hardly the room in °C: check the thermometer` : "read the thermometer first");
      return;
    }
    if (off !== null && Math.abs(off) > rack.room_apart && !asked) return setAsked(true);
    onRoom({ id: newId(), raw: String(value), at: new Date().toISOString() });
  };
  return (
    <div className={css.work}>
      <div>
        <div className={css.what}>the room, once a round</div>
        <label className={css.big}>
          <input
            data-entry
            name="room"
            aria-label="Room, °C"
            inputMode="decimal"
            autoComplete="off"
            autoFocus
            value={raw}
            aria-invalid={problem !== null || undefined}
            onChange={(e) => {
              setRaw(e.currentTarget.value);
              setProblem(null);
              setAsked(false);
            }}
          />
          <span>°C</span>
        </label>
        {problem && (
          <p role="alert" className={css.problem}>
            {problem}
          </p>
        )}
      </div>
      <div className={css.says} aria-live="polite">
        {rack.usual_room !== null ? (
          <>
            <strong>{amount(rack.usual_room, "°C", 1)}</strong> is what this group had so far.
            {asked && off !== null && (
              <p role="alert" style={{ color: "var(--caution)" }}>
                The room is {difference(Math.abs(off), "°C", 1)} {off > 0 ? "warmer" : "colder"} than that: over {difference(rack.room_apart, "°C", 0)} apart, so comparisons will be marked. Loading now starts the group unlike the others. Enter keeps it all the same.
              </p>
            )}
          </>
        ) : (
          rack.weights ? "Creep follows the temperature: what the group had is compared with every later round." : "What a print takes up follows the temperature: what the group had is compared with every later round."
        )}
      </div>
      <button type="button" data-go data-thumb className={css.go} onClick={keep}>
        <kbd>Enter</kbd> {asked ? "It is right, go on" : "Keep the room"}
      </button>
    </div>
  );
}

interface HangProps {
  rack: Schemas["RackView"];
  place: number | null;
  /** Somebody chose this place; else the round is simply done. */
  asked: boolean;
  onHang: (item: Schemas["QueueItem"], testId: string, place: number) => void;
}

/** A free place and what waits to hang there, in the random order of the test. */
export function Hang({ rack, place, asked, onHang }: HangProps) {
  const test = rack.waiting[0];
  const [first, ...rest] = test?.items ?? [];
  if (place === null || !test || !first) {
    return (
      <div className={css.rest}>
        <h2>{rack.members.length ? "This round is done" : "Nothing hangs here"}</h2>
        <p className="soft">{test ? "Every place is taken." : "No printed specimen waits to be hung."} Touch a place to read it out of turn.</p>
      </div>
    );
  }
  return (
    <div className={css.work}>
      <div>
        <div className={css.what}>
          place {place + 1} · free
        </div>
        <div className={css.code}>{first.code}</div>
        <p className="soft">
          next of {test.items.length} that wait: {inText(test.label)}, {test.load > 0 ? `${load(test.load)}, ` : ""}
          {test.study}
        </p>
      </div>
      <div className={css.says}>
        {rest.length > 0 && (
          <>
            <div className="soft">or another one:</div>
            <div className={css.others}>
              {rest.slice(0, 11).map((item) => (
                <button key={item.specimen_id} type="button" onClick={() => onHang(item, test.test_id, place)}>
                  {item.code}
                </button>
              ))}
            </div>
          </>
        )}
      </div>
      <button type="button" data-go data-thumb className={css.go} {...(asked ? { autoFocus: true } : {})} onClick={() => onHang(first, test.test_id, place)}>
        <kbd>Enter</kbd> Hang it on place {place + 1}
      </button>
    </div>
  );
}
