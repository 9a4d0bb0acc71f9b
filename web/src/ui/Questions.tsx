import { Button } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";

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
  /** Whether it is answered by keyboard: the first answer has the cursor, K keeps what was typed. */
  keys?: boolean;
}

/** Entries that are hardly meant as typed: asked with the likely meaning, never changed without a word. */
export function Questions({ questions, onLikely, onConfirm, keys = false }: QuestionsProps) {
  const first = questions[0];
  useHotkeys(keys && first ? [["k", () => first.may_confirm && onConfirm(first)]] : []);
  if (!questions.length) return null;
  return (
    <ul className={css.list} aria-label="Questions" role={keys ? "alert" : undefined} aria-live="polite">
      {questions.map((q, i) => (
        <li key={q.key} className={css.question}>
          <span>
            <strong aria-hidden="true">? </strong>
            {q.text}
          </span>
          <span className={css.answers}>
            {q.likely != null && (
              <Button size="xs" autoFocus={keys && i === 0} onClick={() => onLikely(q, q.likely ?? "")}>
                Yes, {/T\d\d:/.test(q.likely) ? atMinute(q.likely) : q.likely}
              </Button>
            )}
            {q.may_confirm && (
              <Button size="xs" variant="default" autoFocus={keys && i === 0 && q.likely == null} onClick={() => onConfirm(q)}>
                {keys && i === 0 && <kbd style={{ marginRight: 6 }}>K</kbd>} {q.confirm ?? "It is right as entered"}
              </Button>
            )}
          </span>
        </li>
      ))}
    </ul>
  );
}
