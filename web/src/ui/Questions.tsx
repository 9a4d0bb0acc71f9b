import { Button } from "@mantine/core";

import type { Schemas } from "../api/client";
import { atMinute } from "./format";
import css from "./Questions.module.css";

export type Asked = Schemas["QuestionView"];

/** The questions of an answer, whatever it came as. */
export function questionsOf(body: { questions?: unknown } | undefined): Asked[] {
  return Array.isArray(body?.questions) ? (body.questions as Asked[]).filter((q) => "key" in q) : [];
}

interface QuestionsProps {
  questions: readonly Asked[];
  /** Take the likely meaning. */
  onLikely: (question: Asked, likely: string) => void;
  /** It stands as entered. */
  onConfirm: (question: Asked) => void;
}

/** Entries that are hardly meant as typed: asked with the likely meaning, never changed without a word. */
export function Questions({ questions, onLikely, onConfirm }: QuestionsProps) {
  if (!questions.length) return null;
  return (
    <ul className={css.list} aria-label="Questions" aria-live="polite">
      {questions.map((q) => (
        <li key={q.key} className={css.question}>
          <span>
            <strong aria-hidden="true">? </strong>
            {q.text}
          </span>
          <span className={css.answers}>
            {q.likely !== null && (
              <Button size="xs" onClick={() => onLikely(q, q.likely ?? "")}>
                Yes, {/T\d\d:/.test(q.likely) ? atMinute(q.likely) : q.likely}
              </Button>
            )}
            {q.may_confirm && (
              <Button size="xs" variant="default" onClick={() => onConfirm(q)}>
                It is right as entered
              </Button>
            )}
          </span>
        </li>
      ))}
    </ul>
  );
}
