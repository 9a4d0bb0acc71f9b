import type { ComponentType } from "react";

import type { Schemas } from "../api/client";
import type { Entry, Stamp } from "../areas/bench/entry";
import type { Geometry } from "../figures/drawings/geometry";

/** What every part of a step is given; it sits on the drawing of the shape. */
export interface PartProps {
  step: Schemas["StepView"];
  test: Schemas["TestView"];
  rig: Schemas["RigView"] | undefined;
  entry: Entry;
  geometry: Geometry;
  onValue: (key: string, raw: string, stamp?: Stamp) => void;
  onStamp: (key: string, stamp: Stamp) => void;
  /** Places that the server found wrong, with the words. */
  wrong: ReadonlyMap<string, string>;
  /** Readings in doubt, with the reason. */
  doubts: ReadonlyMap<string, string>;
  /** How a number was read where it is not what was typed. */
  readAs: ReadonlyMap<string, string>;
  /** Places measured in an earlier round. */
  locked: ReadonlySet<string>;
  /** Only the dimensions are taken now. */
  dimensionsOnly: boolean;
  recording: { name: string | null; take: (file: File) => void; remove: () => void };
}

export type Part = ComponentType<PartProps>;

/** The unit that the rig shows a field in. */
export function unitOf(rig: Schemas["RigView"] | undefined, field: Schemas["FieldView"]): string {
  const alike = (rig?.channels ?? []).filter((c) => c.dimension === field.dimension);
  return (alike.find((c) => c.name === field.channel) ?? alike[0])?.unit ?? field.base;
}
