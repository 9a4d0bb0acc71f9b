import css from "./capture.module.css";
import type { PartProps } from "./parts";
import { Place } from "./Place";
import type { Schemas } from "../api/client";

/** Pixels of a stage's own drawing, as wide as that of a specimen. */
export const STAGE = 1100;

interface StageProps {
  height: number;
  label: string;
  /** What is drawn. */
  drawing: React.ReactNode;
  /** Entries, each on its spot. */
  children: React.ReactNode;
}

/** A drawing of what is being done, with the places to type standing on it. */
export function Stage({ height, label, drawing, children }: StageProps) {
  return (
    <div className={css.stage} style={{ aspectRatio: `${String(STAGE)} / ${String(height)}` }}>
      <svg viewBox={`0 0 ${String(STAGE)} ${String(height)}`} role="img" aria-label={label} fontFamily="var(--sans)">
        {drawing}
      </svg>
      {children}
    </div>
  );
}

interface SpotProps {
  part: PartProps;
  field: Schemas["FieldView"];
  position?: number;
  /** Middle of the entry on the stage. */
  x: number;
  y: number;
  height: number;
  children?: React.ReactNode;
}

/** One entry with its middle at a point of the stage, its words above it. */
export function Spot({ part, field, position = 0, x, y, height, children }: SpotProps) {
  return (
    <div className={css.spot} style={{ left: `${String((100 * x) / STAGE)}%`, top: `${String((100 * y) / height)}%` }}>
      <Place part={part} field={field} position={position}>
        <span className={css.over}>{children ?? field.label}</span>
      </Place>
    </div>
  );
}

/** A typed value as a number in the unit it stands in; null while nothing, or no number, is typed. */
export function valueOf(part: PartProps, field: string, position = 0): number | null {
  const raw = (part.entry.values[`${field}-${String(position)}`] ?? "").trim().replace(",", ".").replace("−", "-");
  const value = raw === "" ? NaN : Number.parseFloat(raw);
  return Number.isFinite(value) ? value : null;
}
