import { Button, Popover, TextInput } from "@mantine/core";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import css from "./printing.module.css";

export type Outcome = Schemas["BatchView"]["specimens"][number]["outcome"];

export const OUTCOMES: readonly { name: Outcome; mark: string }[] = [
  { name: "good", mark: "" },
  { name: "failed", mark: "✕" },
  { name: "would not stick", mark: "~" },
  { name: "misprinted", mark: "≠" },
];

/** The specimens that were touched, and where on the page. */
export interface Touched {
  ids: readonly string[];
  words: string;
  /** How it is said to have come off; null where several are meant, that may differ. */
  outcome: Outcome | null;
  fault: string;
  box: { left: number; top: number; width: number; height: number };
}

/** Where an element is on the page, scrolled or not. */
export const placeOf = (element: Element): Touched["box"] => {
  const { left, top, width, height } = element.getBoundingClientRect();
  return { left: left + window.scrollX, top: top + window.scrollY, width, height };
};

interface OutcomeChoiceProps {
  touched: Touched;
  onSay: (outcome: Outcome, fault: string) => void;
  onLeave: () => void;
}

/** How what was touched came off the plate, asked where it was touched. */
export function OutcomeChoice({ touched, onSay, onLeave }: OutcomeChoiceProps) {
  const [fault, setFault] = useState(touched.fault);
  return (
    <Popover opened onChange={(open) => !open && onLeave()} onClose={onLeave} position="bottom" trapFocus withinPortal hideDetached={false} shadow="md">
      <Popover.Target>
        <span aria-hidden="true" style={{ position: "absolute", pointerEvents: "none", ...touched.box }} />
      </Popover.Target>
      <Popover.Dropdown aria-label={`How ${touched.words} came off the plate`}>
        <form
          className={css.outcomes}
          // nothing is said by Enter pressed twice: the first choice is a Tab away
          tabIndex={-1}
          data-autofocus
          onSubmit={(e) => {
            e.preventDefault();
            onSay("misprinted", fault);
          }}
        >
          <strong className="figure">{touched.words}</strong>
          {OUTCOMES.filter((o) => o.name !== touched.outcome && o.name !== "misprinted").map((o) => (
            <Button key={o.name} variant="default" justify="start" onClick={() => onSay(o.name, fault)}>
              {o.mark} {o.name}
            </Button>
          ))}
          <Button type="submit" variant="default" justify="start">
            ≠ misprinted
          </Button>
          <TextInput aria-label="What was wrong" placeholder="what was wrong, such as: wrong infill" value={fault} maxLength={80} onChange={(e) => setFault(e.currentTarget.value)} />
        </form>
      </Popover.Dropdown>
    </Popover>
  );
}
