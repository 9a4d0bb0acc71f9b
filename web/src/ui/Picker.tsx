import { Select, type SelectProps } from "@mantine/core";
import { type FocusEvent, type KeyboardEvent, useRef, useState } from "react";

interface PickerProps extends Omit<SelectProps, "data" | "value" | "onChange" | "searchable" | "searchValue" | "onSearchChange" | "defaultValue"> {
  data: readonly { value: string; label: string }[];
  value: string | null;
  onChange: (value: string | null) => void;
  /** What to do about text that names nothing. */
  missing?: string;
  /** Goes on from the field once one is picked. @default to the next field of the form */
  onDone?: (from: HTMLElement) => void;
}

/** One of many, by its letters: Enter picks it and goes on; text that names none of them stays, and is said to be wrong. */
export function Picker({ data, value, onChange, missing = "choose one from the list", onDone = toNextField, error, onBlur, onKeyDown, ...rest }: PickerProps) {
  const chosen = data.find((d) => d.value === value)?.label ?? "";
  const [text, setText] = useState(chosen);
  const [wrong, setWrong] = useState(false);
  const field = useRef<HTMLInputElement>(null);
  const goOn = () => setTimeout(() => field.current && onDone(field.current));
  const stray = text.trim() !== "" && text !== chosen;
  const leave = (e: FocusEvent<HTMLInputElement>) => {
    onBlur?.(e);
    if (!stray) return;
    const named = data.find((d) => d.label.toLowerCase() === text.trim().toLowerCase());
    if (named) return onChange(named.value);
    setText(text);
    setWrong(true);
  };
  const enter = (e: KeyboardEvent<HTMLInputElement>) => {
    onKeyDown?.(e);
    if (e.key !== "Enter" || e.currentTarget.getAttribute("aria-activedescendant")) return;
    // nothing is marked: neither the form nor the next field is for text that names nothing
    e.preventDefault();
    if (stray) setWrong(true);
    else goOn();
  };
  return (
    <Select
      {...rest}
      ref={field}
      data={[...data]}
      value={value}
      onChange={onChange}
      searchable
      selectFirstOptionOnChange
      nothingFoundMessage={missing}
      searchValue={text}
      onSearchChange={(now) => {
        setText(now);
        setWrong(false);
      }}
      onOptionSubmit={goOn}
      onBlur={leave}
      onKeyDown={enter}
      error={wrong ? `“${text}”: ${missing}` : error}
    />
  );
}

function toNextField(from: HTMLElement) {
  const fields = [...(from.closest("form")?.querySelectorAll<HTMLElement>('input:not([type="hidden"]), select, textarea, button:not([tabindex="-1"])') ?? [])];
  const open = fields.filter((f) => f.checkVisibility() && !f.matches(":disabled"));
  open[open.indexOf(from) + 1]?.focus();
}
