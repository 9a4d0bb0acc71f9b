import { Select } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";

import type { Schemas } from "../../api/client";
import { partsOptions } from "../../api/queries/parts";
import type { Choice } from "./useNewStudy";

interface ShapeChoiceProps {
  method: Schemas["MethodView"];
  /** In which it is tested: a part that cannot stand so is not offered. */
  orientations: readonly Choice["orientation"][];
  /** Chosen shapes by method; its first where none is. */
  shapes: Readonly<Record<string, string>>;
  onChange: (shapes: Record<string, string>) => void;
}

/** On what a planned test is done: the method's shapes, and parts of one's own where it takes them; nothing where there is no choice. */
export function ShapeChoice({ method, orientations, shapes, onChange }: ShapeChoiceProps) {
  const parts = useQuery({ ...partsOptions(), enabled: method.own_parts });
  const standing = (parts.data?.items ?? []).filter((p) => orientations.every((o) => p.standings.some((s) => s.orientation === o && s.stands)));
  const data = [...method.shapes.map((s) => ({ value: s.name, label: s.label })), ...standing.map((p) => ({ value: p.id, label: p.name }))];
  if (data.length < 2) return null;
  return (
    <Select
      aria-label={`Shape of ${method.label}`}
      size="xs"
      w={190}
      allowDeselect={false}
      data={data}
      value={shapes[method.name] ?? data[0]?.value ?? null}
      onChange={(shape) => shape && onChange({ ...shapes, [method.name]: shape })}
      comboboxProps={{ width: 260, position: "bottom-start" }}
    />
  );
}
