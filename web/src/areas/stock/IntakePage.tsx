import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useSearch } from "@tanstack/react-router";
import { type KeyboardEvent, useEffect, useRef } from "react";

import type { Schemas } from "../../api/client";
import { materialsOptions, spoolOptions } from "../../api/queries/stock";
import { Empty, ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { Questions } from "../../ui/Questions";
import css from "./intake.module.css";
import { Bag, Looks, Proposal, Strand } from "./IntakeParts";
import { type Intake, useIntake } from "./useIntake";
import { begun } from "./useIntakeDraft";

/** From the sealed bag to a decision in about a minute: one sheet, Enter goes on, digits choose. */
export function IntakePage() {
  const search = useSearch({ from: "/stock/intake" });
  const materials = useQuery(materialsOptions());
  const there = useQuery({ ...spoolOptions(search.spool ?? ""), enabled: Boolean(search.spool) });
  if (materials.isPending || (search.spool && there.isPending)) return <Waiting what="Fetching the sheet …" />;
  if (materials.isError) return <ErrorNote error={materials.error} again={() => void materials.refetch()} />;
  if (there.isError) return <ErrorNote error={there.error} />;
  if (!materials.data.items.length) {
    return (
      <Empty title="No material yet">
        A spool holds a material: register that first, once, with what its maker says.
        <div style={{ marginTop: 16 }}>
          <Button component={Link} to="/stock/new">
            Register a material
          </Button>
        </div>
      </Empty>
    );
  }
  return <Sheet key={`${search.spool}-${search.material}`} materials={materials.data.items} asked={search} spool={there.data} />;
}

interface SheetProps {
  materials: Schemas["MaterialView"][];
  asked: { material?: string; spool?: string };
  spool: Schemas["SpoolPage"] | undefined;
}

function Sheet(props: SheetProps) {
  const intake = useIntake(props);
  const { draft, set, material, questions } = intake;
  const form = useRef<HTMLFormElement>(null);
  const next = (from: HTMLElement) => {
    const steps = [...(form.current?.querySelectorAll<HTMLElement>("[data-step]") ?? [])];
    const at = steps.findIndex((s) => s === from || s.contains(from));
    const target = steps[at + 1];
    (target?.querySelector<HTMLElement>("input:checked") ?? target?.querySelector<HTMLElement>("input, textarea, button") ?? target)?.focus();
  };
  useKeepKey(intake.keep);
  const onKey = (e: KeyboardEvent<HTMLFormElement>) => {
    const target = e.target as HTMLElement;
    if (e.key !== "Enter" || e.ctrlKey || e.metaKey || !target.matches('input:not([aria-expanded="true"])')) return;
    e.preventDefault();
    next(target);
  };
  // the answered question goes, and with it the focus: on to the next one, or to the decision
  const afterAnswer = () => setTimeout(() => form.current?.querySelector<HTMLElement>("[aria-label=Questions] button, [data-keep]")?.focus(), 250);
  return (
    <form ref={form} className={css.sheet} onKeyDown={onKey} onSubmit={(e) => e.preventDefault()} aria-label="Intake of a spool" autoComplete="off">
      <Top intake={intake} />
      <Bag intake={intake} next={next} />
      <Looks intake={intake} next={next} />
      <Strand intake={intake} next={next} />
      <footer className={css.decision}>
        <div>
          <Questions
            questions={questions}
            onLikely={(q, likely) => {
              afterAnswer();
              intake.answer(q, likely);
            }}
            onConfirm={(q) => {
              set({ confirmed: [...draft.confirmed, q.key] });
              afterAnswer();
            }}
          />
          <Refusal text={intake.problem} />
        </div>
        <div className={css.proposal}>
          <Proposal intake={intake} next={next} />
          <Button data-step data-keep size="lg" loading={intake.busy} disabled={!material || questions.length > 0} onClick={() => void intake.keep()}>
            Keep
          </Button>
        </div>
      </footer>
    </form>
  );
}

/** Ctrl Enter keeps, wherever the cursor is, even after an answered question has gone from under it. */
function useKeepKey(keep: () => Promise<void>) {
  const held = useRef(keep);
  useEffect(() => {
    held.current = keep;
  });
  useEffect(() => {
    const listen = (e: globalThis.KeyboardEvent) => {
      if (e.key !== "Enter" || !(e.ctrlKey || e.metaKey)) return;
      e.preventDefault();
      void held.current();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}

function Top({ intake }: { intake: Intake }) {
  const { spool, material, draft } = intake;
  return (
    <div className={css.top}>
      <Link to="/stock" className="soft">
        Stock
      </Link>
      <h1>{spool ? `Check ${spool.code} again` : "Take in a spool"}</h1>
      <span className="soft for-keys">
        <kbd>Enter</kbd> goes on · digits choose · <kbd>Ctrl</kbd> <kbd>Enter</kbd> keeps
      </span>
      {!spool && material && (
        <Button variant="subtle" size="xs" title="it stands on the day sheet until it is checked" onClick={() => void intake.later()}>
          Check it later
        </Button>
      )}
      {begun(draft) && (
        <Button variant="subtle" size="xs" onClick={intake.clear}>
          Start afresh
        </Button>
      )}
    </div>
  );
}
