import { useId } from "react";

import type { Schemas } from "../api/client";

/** What a swatch shows until the filament's colour is known. */
export const NEUTRAL = "#9A948A";

/** Black or white, whichever reads better on a colour. */
export function inkOn(hex: string): string {
  const channel = (at: number) => {
    const c = parseInt(hex.slice(at, at + 2), 16) / 255;
    return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
  };
  const luminance = 0.2126 * channel(1) + 0.7152 * channel(3) + 0.0722 * channel(5);
  return luminance > 0.2 ? "#1f2330" : "#ffffff";
}

interface SwatchProps {
  hex: string;
  mark: string;
  /** A pattern for filled grades. @default false */
  filled?: boolean;
  /** CSS pixels. @default 34 */
  size?: number;
  title?: string;
  /** Place within a figure. */
  x?: number;
  y?: number;
}

/** A material's own sign: its real colour, outlined; hatched if filled; with its two-letter mark. */
export function Swatch({ hex, mark, filled = false, size = 34, title, x, y }: SwatchProps) {
  const id = useId();
  const ink = inkOn(hex);
  return (
    <svg x={x} y={y} width={size} height={size} viewBox="0 0 34 34" role="img" aria-label={title ?? mark} style={{ flex: "none" }}>
      {filled && (
        <pattern id={id} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(35)">
          <rect width="5" height="5" fill={hex} />
          <rect width="1.4" height="5" fill={ink} opacity="0.38" />
        </pattern>
      )}
      <circle cx="17" cy="17" r="16" fill={filled ? `url(#${id})` : hex} stroke="var(--ink)" strokeWidth="1.2" />
      {filled && <circle cx="17" cy="17" r="9.5" fill={hex} />}
      <text x="17" y="21.5" textAnchor="middle" fontSize="13" fontWeight="700" fill={ink} fontFamily="var(--sans)">
        {mark}
      </text>
    </svg>
  );
}

export function ArmSwatch({ arm, size }: { arm: Schemas["ArmView"] | Schemas["QueueArm"]; size?: number }) {
  const m = arm.material;
  return <Swatch hex={m.hex} mark={arm.mark} filled={m.filler !== null} {...(size ? { size } : {})} title={`${m.maker} ${m.product}, ${m.colour}`} />;
}

/** "PETG + 15 % carbon fibre" */
export function composition(m: Schemas["MaterialView"]): string {
  if (!m.filler) return m.polymer;
  return m.filler_share ? `${m.polymer} + ${m.filler_share} % ${m.filler}` : `${m.polymer} + ${m.filler}`;
}

/** What tells an arm from others of its material: its treatment, and the settings in which arms differ. */
export function armWords(arm: Pick<Schemas["ArmView"], "treatment" | "differs">): string {
  return [arm.treatment, ...Object.entries(arm.differs).map(([name, value]) => `${name} ${value}`)].filter(Boolean).join(" · ");
}

export function ArmName({ arm, note }: { arm: Schemas["ArmView"]; note?: string | undefined }) {
  const m = arm.material;
  return (
    <div style={{ display: "flex", alignItems: "center", gap: 10, minWidth: 0 }}>
      <ArmSwatch arm={arm} />
      <div style={{ minWidth: 0 }}>
        <div style={{ fontWeight: 650, whiteSpace: "nowrap", overflow: "hidden", textOverflow: "ellipsis" }}>
          {m.maker} {m.product}
          {m.obtained === "sent free" && (
            <span className="soft" style={{ fontWeight: 400, fontSize: "0.8rem" }} title="the sample was sent free by its maker">
              {" "}
              sent free
            </span>
          )}
        </div>
        <div className="soft" style={{ fontSize: "0.8rem", whiteSpace: "nowrap", overflow: "hidden", textOverflow: "ellipsis" }}>
          {[m.colour, armWords(arm) || composition(m), note].filter(Boolean).join(" · ")}
        </div>
      </div>
    </div>
  );
}
