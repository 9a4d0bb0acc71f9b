import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useRef } from "react";

import type { Schemas } from "../../api/client";
import { outbox } from "../../api/outbox";
import { queueOptions, rawCurveOptions, waitingOptions } from "../../api/queries/bench";
import { PullCurve } from "../../figures/PullCurve";
import css from "./bench.module.css";
import { strip } from "./strip";

type Item = Schemas["QueueItem"];

/** Once the server's queue says the same, our own note of it is not needed any more. */
export function settledOnly(done: ReadonlyMap<string, Item["state"]>, items: Item[]): ReadonlyMap<string, Item["state"]> {
  const rest = [...done].filter(([id, state]) => items.find((i) => i.specimen_id === id)?.state !== state);
  return rest.length === done.size ? done : new Map(rest);
}

export function QueueRefresh({ testId, blind, onFresh }: { testId: string; blind: boolean; onFresh: () => void }) {
  const queries = useQueryClient();
  useEffect(() => outbox.onSent(() => void queries.invalidateQueries({ queryKey: queueOptions(testId, blind).queryKey }).then(onFresh)), [queries, testId, blind, onFresh]);
  return null;
}

interface ChipsProps {
  items: Item[];
  current: Item | null;
  stateOf: (item: Item) => Item["state"];
  blind: boolean;
  onGo: (item: Item) => void;
}

const STATE_WORDS: Record<Item["state"], string> = { waiting: "waiting", measured: "measured", counts: "tested", at_least: "at least", at_most: "at most", left_out: "left out" };

/** The queue around the specimen at hand. */
export function Chips({ items, current, stateOf, blind, onGo }: ChipsProps) {
  const at = current ? items.indexOf(current) : items.length;
  const here = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    const chip = here.current;
    if (chip?.parentElement) chip.parentElement.scrollLeft = chip.offsetLeft - chip.parentElement.offsetLeft - chip.offsetWidth;
  }, [current?.specimen_id]);
  return (
    <>
      {strip(items, at, (item) => stateOf(item) === "waiting" || stateOf(item) === "measured").map((item) => {
        const state = stateOf(item);
        return (
          <button
            key={item.specimen_id}
            type="button"
            className={css.chip}
            ref={item === current ? here : undefined}
            data-state={state}
            data-here={item === current || undefined}
            aria-current={item === current ? "step" : undefined}
            title={`${STATE_WORDS[state]}${item.held_by ? `, held by ${item.held_by}` : ""}${!blind && item.arm ? `, ${item.arm.mark}` : ""}`}
            onClick={() => onGo(item)}
          >
            {item.code}
            {state === "at_least" && " ↑"}
            {state === "measured" && " ·"}
          </button>
        );
      })}
    </>
  );
}

/** Nothing is left here: what waits elsewhere, the nearest first. */
export function Finished({ testId, dimensionsOnly }: { testId: string; dimensionsOnly: boolean }) {
  const waiting = useQuery(waitingOptions());
  const next = (waiting.data?.items ?? []).filter((t) => t.test_id !== testId && t.waiting > 0);
  const first = useRef<HTMLAnchorElement>(null);
  const found = next[0]?.test_id;
  useEffect(() => first.current?.focus(), [found]);
  return (
    <div style={{ textAlign: "center", padding: "3.2rem 1rem" }}>
      <h2>{dimensionsOnly ? "Every waiting specimen has been measured" : "This queue is done"}</h2>
      {dimensionsOnly ? (
        <p className="soft">Switch to the test itself to go on.</p>
      ) : next.length ? (
        <ul className={css.tests} style={{ maxWidth: 620, margin: "1rem auto", textAlign: "left" }}>
          {next.slice(0, 4).map((t, i) => (
            <li key={t.test_id}>
              <WaitingLink item={t} {...(i === 0 ? { linkRef: first } : {})} />
            </li>
          ))}
        </ul>
      ) : (
        <p className="soft">No other test waits. Scan another specimen, or read what came out in the findings of the study.</p>
      )}
      <p className="soft">
        <kbd>U</kbd> takes the last entry back.
      </p>
    </div>
  );
}

/** A test that waits on the bench, or its rack. */
export function WaitingLink({ item, linkRef }: { item: Schemas["WaitingTest"]; linkRef?: React.Ref<HTMLAnchorElement> }) {
  const words = (
    <>
      <span>
        <strong>
          {item.label}, {item.orientation}
        </strong>
        <span className="soft">
          {" "}
          · {item.study} · {item.shape}
        </span>
      </span>
      <span>
        <span className="figure" style={{ fontWeight: 700 }}>
          {item.waiting}
        </span>{" "}
        of {item.printed} waiting
        {item.open > 0 && <span className="soft"> · {item.open} under way</span>}
        {item.unprinted > 0 && <span className="soft"> · {item.unprinted} not printed</span>}
      </span>
    </>
  );
  const ref = linkRef ? { ref: linkRef } : {};
  if (item.rounds) {
    return (
      <Link to="/bench/racks" className={css.testLink} {...ref}>
        {words}
      </Link>
    );
  }
  if (item.method === "graded") {
    return (
      <Link to="/bench/grading/$testId" params={{ testId: item.test_id }} className={css.testLink} {...ref}>
        {words}
      </Link>
    );
  }
  return (
    <Link to="/bench" search={{ test: item.test_id }} className={css.testLink} {...ref}>
      {words}
    </Link>
  );
}

export function DroppedCurveView({ curveId }: { curveId: string }) {
  const curve = useQuery(rawCurveOptions(curveId));
  if (!curve.data) return null;
  return <PullCurve curve={curve.data} range={null} height={142} width={440} />;
}
