import { TextInput, type TextInputProps } from "@mantine/core";
import { useEffect, useRef, useState } from "react";

import { problemOf, readBetween, type Between, typed } from "./number";

interface NumberEntryProps extends Omit<TextInputProps, "value" | "onChange" | "error" | "type" | "min" | "max">, Between {
  value: number | null | undefined;
  /** The number that stands typed; null for an empty field, undefined for what is no number or cannot be. */
  onChange: (value: number | null | undefined) => void;
  /** Stands behind the number: "batches", "of each". */
  unit?: string;
}

/** A number as somebody types it: never rewritten; what cannot be is said at the field, with what was likely meant, and its form is not sent. */
export function NumberEntry({ value, onChange, min, max, whole = false, unit, ...input }: NumberEntryProps) {
  const [text, setText] = useState(typed(value));
  const field = useRef<HTMLInputElement>(null);
  const between = { min, max, whole };
  const own = readBetween(text, between);
  // what stands typed wins, unless another number was put in its place from outside
  const shown = own === undefined || own === (value ?? null) ? text : typed(value);
  const problem = problemOf(shown, between);
  useEffect(() => field.current?.setCustomValidity(problem ?? ""), [problem]);
  return (
    <TextInput
      {...input}
      ref={field}
      inputMode="decimal"
      value={shown}
      error={problem}
      rightSection={unit && <span style={{ fontSize: "0.8em", color: "var(--soft)", whiteSpace: "nowrap" }}>{unit}</span>}
      rightSectionWidth={unit ? `${String(0.55 * unit.length + 1.2)}em` : undefined}
      rightSectionPointerEvents="none"
      onChange={(e) => {
        const next = e.currentTarget.value;
        setText(next);
        onChange(readBetween(next, between));
      }}
    />
  );
}
