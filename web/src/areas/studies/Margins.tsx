import { Button, NativeSelect, TextInput } from "@mantine/core";
import { Link, useSearch } from "@tanstack/react-router";
import { type ReactNode, useEffect, useRef, useState } from "react";

import type { Schemas } from "../../api/client";
import { readNumber, typed } from "../../ui/number";
import { shownUnit } from "../../ui/units";
import css from "./plan.module.css";
import type { Planned } from "./usePlan";

type Test = Schemas["TestView"];

/** Of each test, which difference from the reference matters: the verdicts rest on it. */
export function Margins({ study, plan }: { study: Schemas["StudyView"]; plan: Planned }) {
  const set = study.tests.filter((t) => t.margin_kinds.length);
  if (!set.length) return null;
  return (
    <section className={css.part} aria-label="Differences that matter">
      <h2>Differences that matter</h2>
      <p className="soft">The smallest difference from the reference that would change what you do. A smaller one, known to be smaller, is equivalent.</p>
      <ul className={css.margins}>
        {set.map((t) => (
          <MarginOf key={`${t.id} ${String(t.margin)} ${String(t.margin_relative)}`} test={t} started={study.started_at !== null} onSave={(margin, reason) => plan.edit({ margins: { [t.id]: margin }, reason })} />
        ))}
      </ul>
    </section>
  );
}

interface MarginOfProps {
  test: Test;
  started: boolean;
  onSave: (margin: Schemas["MarginEdit"], reason: string) => Promise<boolean>;
}

function MarginOf({ test: t, started, onSave }: MarginOfProps) {
  const { margin: asked } = useSearch({ from: "/studies/$studyId/plan" });
  const field = useRef<HTMLInputElement>(null);
  const unit = shownUnit(t.quantities.find((q) => q.name === t.main)?.unit ?? "");
  const factor = (relative: boolean) => (relative ? 100 : unit.factor);
  // planned as a share, which has no meaning here: to be said in the unit
  const meaningless = t.margin_relative && !t.margin_kinds.includes("relative");
  const [relative, setRelative] = useState(t.margin_relative && !meaningless);
  const saved = meaningless ? "" : typed(Number((t.margin * factor(t.margin_relative)).toPrecision(6)));
  const [text, setText] = useState(saved);
  const [reason, setReason] = useState("");
  const value = readNumber(text);
  const changed = text.trim() !== saved || (!meaningless && relative !== t.margin_relative);
  const wrong = value == null || value <= 0;
  useEffect(() => {
    if (asked !== t.id) return;
    field.current?.scrollIntoView({ block: "center" });
    field.current?.focus();
    field.current?.select();
  }, [asked, t.id]);
  const name = `${t.label}, ${t.orientation}`;
  return (
    <li>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (changed && !wrong) void onSave({ value: value / factor(relative), relative }, reason);
        }}
      >
        <TextInput ref={field} label={name} w={210} inputMode="decimal" value={text} onChange={(e) => setText(e.currentTarget.value)} error={wrong && (text.trim() ? "a number above 0" : "not set")} />
        <NativeSelect
          aria-label={`Unit of the margin of ${name}`}
          w={190}
          value={relative ? "relative" : "absolute"}
          onChange={(e) => setRelative(e.currentTarget.value === "relative")}
          data={t.margin_kinds.map((kind) => ({ value: kind, label: kind === "relative" ? "% of the reference" : unit.unit || "in plain numbers" }))}
        />
        {changed && started && <TextInput label={`Why, of ${name}`} value={reason} maxLength={300} onChange={(e) => setReason(e.currentTarget.value)} w={260} />}
        {changed && (
          <Button type="submit" variant="default" disabled={wrong || (started && !reason.trim())}>
            Save
          </Button>
        )}
      </form>
    </li>
  );
}

/** A note of a verdict; one that asks for a margin leads to where it is set. */
export function VerdictNote({ studyId, testId, note }: { studyId: string; testId: string; note: string }): ReactNode {
  if (!note.includes("set an absolute margin")) return note;
  return (
    <>
      {note.replace("set an absolute margin", "")}
      <Link to="/studies/$studyId/plan" params={{ studyId }} search={{ margin: testId }}>
        set an absolute margin
      </Link>
    </>
  );
}
