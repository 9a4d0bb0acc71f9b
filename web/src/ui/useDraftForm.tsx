import { Button } from "@mantine/core";
import { useForm, type UseFormInput, type UseFormReturnType } from "@mantine/form";
import { useEffect, useRef, useState } from "react";

import { newId } from "../api/ids";

interface Kept<T> {
  /** Of what is being made: the same after a reload, so that sent again it is the same thing. */
  id: string;
  values: T;
}

/** What was typed under a key and not sent yet; null where there is nothing, or it cannot be read. */
export function readDraft<T extends object>(key: string): Kept<T> | null {
  try {
    const found = JSON.parse(localStorage.getItem(key) ?? "null") as Kept<T> | null;
    return typeof found?.id === "string" && typeof found.values === "object" ? found : null;
  } catch {
    return null;
  }
}

interface DraftOptions<T> extends UseFormInput<T> {
  initialValues: T;
  /** Puts back what cannot be written down as text. */
  revive?: (values: T) => T;
}

/** A form whose values are kept in this browser until the server has taken them: Back, Forward and a reload lose nothing. */
export function useDraftForm<T extends object>(key: string, { revive = (values) => values, ...options }: DraftOptions<T>) {
  const [kept] = useState(() => readDraft<T>(key));
  const [id, setId] = useState(() => kept?.id ?? newId());
  const [restored, setRestored] = useState(kept !== null);
  const start = useRef(JSON.stringify(options.initialValues));
  const current = useRef(id);
  const form: UseFormReturnType<T> = useForm<T>({
    ...options,
    onValuesChange: (values) => {
      const text = JSON.stringify(values);
      if (text === start.current) localStorage.removeItem(key);
      else localStorage.setItem(key, JSON.stringify({ id: current.current, values } satisfies Kept<T>));
    },
  });
  useEffect(() => {
    // put over the start, not in its place: what differs from the start stays known
    if (kept) form.setValues(revive({ ...options.initialValues, ...kept.values }));
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  /** It was sent, or is not wanted: the next one is another. */
  const forget = () => {
    localStorage.removeItem(key);
    current.current = newId();
    setId(current.current);
    setRestored(false);
  };
  const reset = () => {
    form.reset();
    forget();
  };
  return { form, id, restored, forget, reset };
}

/** That what was typed before a reload stands in the fields again, and the way to empty ones. */
export function Restored({ draft }: { draft: { restored: boolean; reset: () => void } }) {
  if (!draft.restored) return null;
  return (
    <p role="status" className="soft" style={{ margin: "0 0 0.5rem" }}>
      Unsaved input restored.{" "}
      <Button size="compact-sm" variant="default" onClick={draft.reset}>
        Discard it
      </Button>
    </p>
  );
}
