import { useRef, useState } from "react";

import { messageOf, Problem } from "../api/client";
import { type Asked, questionsOf } from "./Questions";

interface Told {
  field: string | undefined;
  text: string;
}

/** Sending something that the server may ask about: its open questions, what was confirmed, or what was wrong. */
export function useAsking() {
  const [questions, setQuestions] = useState<Asked[]>([]);
  const [confirmed, setConfirmed] = useState<string[]>([]);
  const [problem, setProblem] = useState<Told | null>(null);

  const busy = useRef(false);

  /** True if it went through; otherwise the questions or the problem are set. Enter pressed twice is once. */
  const attempt = async (act: () => Promise<unknown>): Promise<boolean> => {
    if (busy.current) return false;
    busy.current = true;
    try {
      await act();
      setQuestions([]);
      setProblem(null);
      return true;
    } catch (error) {
      const asks = error instanceof Problem ? questionsOf(error.body) : [];
      setQuestions(asks);
      setProblem(asks.length ? null : { field: error instanceof Problem ? error.field : undefined, text: messageOf(error) });
      return false;
    } finally {
      busy.current = false;
    }
  };
  /** The entry is changed: its question is void. */
  const drop = (question: Asked) => setQuestions(questions.filter((q) => q.key !== question.key));
  /** The entry stands; `last` tells that nothing else is open. */
  const confirm = (question: Asked): { keys: string[]; last: boolean } => {
    const keys = [...confirmed, question.key];
    const rest = questions.filter((q) => q.key !== question.key);
    setConfirmed(keys);
    setQuestions(rest);
    return { keys, last: !rest.length };
  };
  const reset = () => {
    setQuestions([]);
    setConfirmed([]);
    setProblem(null);
  };
  return { questions, confirmed, problem, attempt, drop, confirm, reset };
}
