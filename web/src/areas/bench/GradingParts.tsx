import { Switch } from "@mantine/core";
import { Link } from "@tanstack/react-router";

import type { Schemas } from "../../api/client";
import css from "./grading.module.css";

export interface LaidProps {
  view: Schemas["GradingView"];
  person: string;
  rig: string;
  blind: boolean;
  onBlind: (blind: boolean) => void;
}

interface HeadProps extends Omit<LaidProps, "rig"> {
  title: string;
  trait: string;
  onTrait: (name: string) => void;
  /** How far a trait is, in a word or two. */
  stands: (name: string) => string;
}

/** What is looked at, by whom, and the traits one after another. */
export function GradingHead({ view, person, blind, onBlind, title, trait, onTrait, stands }: HeadProps) {
  return (
    <>
      <div className={css.head}>
        <h1>{title}</h1>
        <span className="soft">
          {[view.study, view.orientation, person, view.viewing && `looked at ${view.viewing}`].filter(Boolean).join(" · ")}
        </span>
        <span style={{ flex: 1 }} />
        <Switch size="sm" label="blind" checked={blind} onChange={(e) => onBlind(e.currentTarget.checked)} />
      </div>
      <div className={css.traits} role="tablist" aria-label="Traits">
        {view.traits.map((t) => (
          <button key={t.name} type="button" role="tab" aria-selected={t.name === trait} onClick={() => onTrait(t.name)}>
            {t.label} <span className="soft">{stands(t.name)}</span>
          </button>
        ))}
      </div>
    </>
  );
}

/** Done for oneself: nothing is closed, so that somebody else can go on. */
export function LeaveOpen({ view }: { view: Schemas["GradingView"] }) {
  return (
    <Link to="/studies/$studyId/findings" params={{ studyId: view.study_id }} search={{ test: view.test_id }} className={css.leave}>
      Leave it open for others
    </Link>
  );
}

/** What was done, or why it was not. */
export const Notice = ({ text }: { text: string | null }) =>
  text === null ? null : (
    <p role="status" className={css.notice}>
      {text}
    </p>
  );
