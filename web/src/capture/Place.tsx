import type { Schemas } from "../api/client";
import { NumberField } from "./NumberField";
import { type PartProps, unitOf } from "./parts";

interface PlaceProps {
  part: PartProps;
  field: Schemas["FieldView"];
  position: number;
  style?: React.CSSProperties;
  children: React.ReactNode;
}

/** One reading of a field, where a part puts it on the drawing. */
export function Place({ part, field, position, style, children }: PlaceProps) {
  const key = `${field.name}-${String(position)}`;
  return (
    <NumberField
      name={key}
      label={`${field.label} ${String(position + 1)}`}
      unit={unitOf(part.rig, field)}
      value={part.entry.values[key] ?? ""}
      onChange={(raw) => part.onValue(key, raw)}
      wrong={part.wrong.get(key)}
      doubt={part.doubts.get(key)}
      readAs={part.readAs.get(key)}
      readOnly={part.locked.has(key)}
      instead={field.from_print === null ? undefined : "by its print"}
      style={style}
    >
      {children}
    </NumberField>
  );
}
