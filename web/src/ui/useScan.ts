import { useEffect, useRef } from "react";

import { BurstDetector, isGaugeReading } from "./burst";

/** What a label's code looks like: bare, or at the end of the address in its square code. */
export const looksLikeCode = (text: string): boolean => /^[0-9a-z]{5,6}$/i.test(text.trim()) || text.includes("://");

/**
 * A scanned code, on pages that have no use for one of their own. What the burst typed into a field is taken
 * out of it again; a calliper's reading is left where it fell.
 */
export function useScan(enabled: boolean, onCode: (text: string) => void): void {
  const act = useRef(onCode);
  useEffect(() => {
    act.current = onCode;
  });
  useEffect(() => {
    if (!enabled) return;
    const detector = new BurstDetector();
    let before: { field: HTMLInputElement | HTMLTextAreaElement; value: string } | null = null;
    const listen = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey) return;
      if (e.key === "Enter") {
        const burst = detector.enter(e.timeStamp);
        if (burst === null || isGaugeReading(burst) || !looksLikeCode(burst)) return;
        e.preventDefault();
        e.stopImmediatePropagation();
        if (before) putBack(before.field, before.value);
        act.current(burst.trim());
      } else if (e.key.length === 1 && detector.key(e.key, e.timeStamp)) {
        const target = e.target;
        before = target instanceof HTMLInputElement || target instanceof HTMLTextAreaElement ? { field: target, value: target.value } : null;
      }
    };
    window.addEventListener("keydown", listen, { capture: true });
    return () => window.removeEventListener("keydown", listen, { capture: true });
  }, [enabled]);
}

/** Set a field as if it had been typed, so that whoever controls it notices. */
function putBack(field: HTMLInputElement | HTMLTextAreaElement, value: string): void {
  const prototype = field instanceof HTMLInputElement ? HTMLInputElement.prototype : HTMLTextAreaElement.prototype;
   
  Object.getOwnPropertyDescriptor(prototype, "value")?.set?.call(field, value);
  field.dispatchEvent(new Event("input", { bubbles: true }));
}
