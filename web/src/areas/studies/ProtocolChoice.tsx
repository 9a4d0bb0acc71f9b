import { Button, Checkbox, MultiSelect, Popover, Select, Stack, TextInput } from "@mantine/core";

import type { Schemas } from "../../api/client";
import { delivered, readSetting, setWords, type Typed, typedUnit } from "./protocol";

interface ProtocolChoiceProps {
  method: Schemas["MethodView"];
  typed: Typed;
  onChange: (typed: Typed) => void;
}

/** How a planned test is set: a ladder, an angle, reading times; as delivered where nothing is typed. */
export function ProtocolChoice({ method, typed, onChange }: ProtocolChoiceProps) {
  if (!method.settings.length) return null;
  const own = typed[method.name] ?? {};
  const set = (name: string, text: string) => onChange({ ...typed, [method.name]: { ...own, [name]: text } });
  const wrong = method.settings.some((s) => readSetting(s, own[s.name] ?? "") === undefined);
  const words = wrong ? "cannot be set so" : setWords(method, typed) || "as delivered";
  return (
    <Popover position="bottom-start" withinPortal trapFocus returnFocus>
      <Popover.Target>
        <Button size="compact-sm" variant="default" color={wrong ? "red" : undefined} aria-label={`How ${method.label} is set: ${words}`}>
          {words}
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Stack gap="xs" w={300}>
          {method.settings.map((s) => {
            const text = own[s.name] ?? "";
            if (s.kind === "yes or no") return <Checkbox key={s.name} label={s.label} checked={text === "1"} onChange={(e) => set(s.name, e.currentTarget.checked ? "1" : "")} />;
            if (s.kind === "choice")
              return <Select key={s.name} size="xs" label={s.label} data={Object.entries(s.choices).map(([value, label]) => ({ value, label }))} value={text || String(s.default)} onChange={(v) => set(s.name, v === s.default ? "" : (v ?? ""))} allowDeselect={false} comboboxProps={{ withinPortal: false }} />;
            if (s.kind === "words") {
              const chosen = text ? text.split(/\s+/) : [s.default].flat().map(String);
              return <MultiSelect key={s.name} size="xs" label={s.label} data={Object.entries(s.choices).map(([value, label]) => ({ value, label }))} value={chosen} onChange={(v) => set(s.name, v.join(" "))} comboboxProps={{ withinPortal: false }} searchable />;
            }
            const { unit } = typedUnit(s);
            return (
              <TextInput
                key={s.name}
                size="xs"
                label={unit ? `${s.label}, ${unit}` : s.label}
                placeholder={delivered(s)}
                value={text}
                error={readSetting(s, text) === undefined ? (s.kind === "numbers" ? "numbers that rise, blanks between them" : "one number") : null}
                onChange={(e) => set(s.name, e.currentTarget.value)}
              />
            );
          })}
        </Stack>
      </Popover.Dropdown>
    </Popover>
  );
}
