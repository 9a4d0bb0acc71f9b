import { Select } from "@mantine/core";
import { useState } from "react";

interface AddOneProps {
  /** Said by screen readers, and in the empty field. */
  label: string;
  data: readonly { value: string; label: string }[];
  onAdd: (value: string) => void;
  maw?: number;
  /** Where one came here to add something. */
  first?: boolean;
}

/** Adds one thing after another out of a list: empty again once one was taken, so that the next can be typed. */
export function AddOne({ label, data, onAdd, maw = 300, first = false }: AddOneProps) {
  const [typed, setTyped] = useState("");
  return (
    <Select
      aria-label={label}
      placeholder={`${label.toLowerCase()} …`}
      size="xs"
      maw={maw}
      searchable
      autoFocus={first}
      value={null}
      searchValue={typed}
      onSearchChange={setTyped}
      data={[...data]}
      onChange={(value) => {
        if (value) onAdd(value);
        setTyped("");
      }}
    />
  );
}
