import { useEffect, useRef } from "react";

import { BurstDetector, isGaugeReading } from "../../ui/burst";

interface BenchKeys {
  /** Remember the entries, before what may be a burst spoils them. */
  onBurstMayStart: () => void;
  /** A burst was a scanner's: put the remembered entries back, then look the code up. */
  onScan: (text: string) => void;
  /** A burst was a calliper's reading. */
  onGauge: (text: string) => void;
  /** A person pressed Enter, in the entry of this name or outside of one. */
  onEnter: (active: string | null) => void;
  /** Commands by their letter, in lower case. */
  letters: Readonly<Record<string, () => void>>;
  /** A dialog is open: scans are refused, the other keys are its own. */
  dialogOpen: boolean;
}

/** Letters act only after this pause, ms: a scanner's first letter must not set anything off. */
const SETTLE = 90;

/** The bench's keyboard: entries, scanner bursts and shortcuts kept apart, in one place. */
export function useBenchKeys(keys: BenchKeys): void {
  const held = useRef(keys);
  useEffect(() => {
    held.current = keys;
  });
  useEffect(() => {
    const detector = new BurstDetector();
    let pending: ReturnType<typeof setTimeout> | undefined;
    const listen = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey) return;
      const k = held.current;
      if (e.key === "Enter") {
        clearTimeout(pending);
        const burst = detector.enter(e.timeStamp);
        if (burst !== null) {
          e.preventDefault();
          e.stopImmediatePropagation();
          if (isGaugeReading(burst) && !k.dialogOpen) k.onGauge(burst.trim());
          else k.onScan(burst);
        } else if (!k.dialogOpen && !e.repeat && onEntry(e.target)) {
          e.preventDefault();
          k.onEnter(e.target instanceof HTMLInputElement ? e.target.name : null);
        }
        return;
      }
      if (e.key.length !== 1) return;
      clearTimeout(pending);
      if (detector.key(e.key, e.timeStamp)) k.onBurstMayStart();
      if (k.dialogOpen) return;
      const act = k.letters[e.key.toLowerCase()];
      // a letter cannot begin a number: in an empty field, or outside of one, it is a command
      if (act && !detector.running && isFree(e.target)) {
        e.preventDefault();
        pending = setTimeout(act, SETTLE);
      }
    };
    window.addEventListener("keydown", listen, { capture: true });
    return () => {
      clearTimeout(pending);
      window.removeEventListener("keydown", listen, { capture: true });
    };
  }, []);
}

/** Where Enter goes on with the entry: in a place for one, on a chosen outcome, or outside of everything. */
function onEntry(target: EventTarget | null): boolean {
  if (target instanceof HTMLInputElement) return "entry" in target.dataset;
  return target === document.body || (target instanceof HTMLElement && target.getAttribute("aria-pressed") === "true" && "outcome" in target.dataset);
}

function isFree(target: EventTarget | null): boolean {
  if (target instanceof HTMLInputElement) return "entry" in target.dataset && target.value === "";
  return target instanceof HTMLElement && !target.matches("textarea, select, [contenteditable], input");
}
