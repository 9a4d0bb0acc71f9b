import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import type { Schemas } from "../../api/client";
import { outbox } from "../../api/outbox";
import { queueOptions, rawCurveOptions } from "../../api/queries/bench";
import { PullCurve } from "../../figures/PullCurve";
import css from "./bench.module.css";

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

export function pad(values: string[] | undefined): string[] {
  return Array.from({ length: 3 }, (_, i) => values?.[i] ?? "");
}

export function defaultPlace(fracture: string): number {
  return fracture === "grip" ? 0.12 : fracture === "outside gauge" ? 0.28 : 0.5;
}

interface ChipsProps {
  items: Item[];
  current: Item | null;
  stateOf: (item: Item) => Item["state"];
  blind: boolean;
  onGo: (id: string) => void;
}

const STATE_WORDS: Record<Item["state"], string> = { waiting: "waiting", measured: "measured", counts: "tested", at_least: "at least", at_most: "at most", left_out: "left out" };

/** The queue around the specimen at hand: two behind it, what fits ahead. */
export function Chips({ items, current, stateOf, blind, onGo }: ChipsProps) {
  const at = current ? items.indexOf(current) : items.length;
  const from = Math.max(0, Math.min(at - 2, items.length - 12));
  return (
    <>
      {items.slice(from, from + 12).map((item) => {
        const state = stateOf(item);
        return (
          <button
            key={item.specimen_id}
            type="button"
            className={css.chip}
            data-state={state}
            data-here={item === current || undefined}
            aria-current={item === current ? "step" : undefined}
            title={`${STATE_WORDS[state]}${item.held_by ? `, held by ${item.held_by}` : ""}${!blind && item.arm ? `, ${item.arm.mark}` : ""}`}
            disabled={state !== "waiting" && state !== "measured"}
            onClick={() => onGo(item.specimen_id)}
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

export function Finished({ round }: { round: string }) {
  return (
    <div style={{ textAlign: "center", padding: "4rem 1rem" }}>
      <h2>{round === "dimensions" ? "Every waiting specimen has been measured" : "This queue is done"}</h2>
      <p className="soft">
        {round === "dimensions" ? "Switch to Pull to go on." : "Scan another specimen, or read what came out in the findings of the study."} <kbd>U</kbd> takes the last entry back.
      </p>
    </div>
  );
}

export function FileButton({ onFile }: { onFile: (file: File) => void }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <div style={{ marginTop: 6, textAlign: "center" }}>
      <button type="button" className={css.link} onClick={() => input.current?.click()}>
        or drop the recorded curve
      </button>
      <input
        ref={input}
        type="file"
        aria-label="recorded curve"
        style={{ display: "none" }}
        accept=".csv,.txt,.tsv,.dat,.log,text/*"
        onChange={(e) => {
          const file = e.currentTarget.files?.[0];
          e.currentTarget.value = "";
          if (file) onFile(file);
        }}
      />
    </div>
  );
}

export function DroppedCurveView({ curveId }: { curveId: string }) {
  const curve = useQuery(rawCurveOptions(curveId));
  if (!curve.data) return null;
  return <PullCurve curve={curve.data} window={null} height={142} width={440} />;
}
