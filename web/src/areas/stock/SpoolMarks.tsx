import type { Schemas } from "../../api/client";

type SpoolItem = Schemas["SpoolItem"];

const TURNS = 10;

interface TurnsLeftProps {
  hex: string;
  /** Filament left as a share of what a full spool holds; null: not known. */
  share: number | null;
  /** CSS pixels. @default 20 */
  height?: number;
}

/** What is left, as a tally of ten turns in the filament's own colour; the last one is as high as its part. */
export function TurnsLeft({ hex, share, height = 20 }: TurnsLeftProps) {
  const turns = Math.min(1, Math.max(0, share ?? 0)) * TURNS;
  return (
    <svg width={height * 2.5} height={height} viewBox="0 0 50 20" role="img" aria-label={share === null ? "amount not known" : `${Math.round(100 * share)} % left`} style={{ flex: "none" }}>
      {Array.from({ length: TURNS }, (_, i) => {
        const part = Math.min(1, Math.max(0, turns - i));
        return (
          <g key={i} transform={`translate(${i * 5} 0)`}>
            <rect x="0.9" y="1" width="3.2" height="18" rx="1.4" fill="none" stroke="var(--soft)" strokeWidth="0.6" />
            {part > 0 && <rect x="0.9" y={1 + 18 * (1 - part)} width="3.2" height={18 * part} rx="1.4" fill={hex} stroke="var(--ink)" strokeWidth="0.7" />}
          </g>
        );
      })}
      {share === null && (
        <text x="25" y="15" textAnchor="middle" fontSize="14" fontWeight="700" fill="var(--ink)">
          ?
        </text>
      )}
    </svg>
  );
}

/** What is left of a full spool. */
export function shareLeft(spool: SpoolItem): number | null {
  if (spool.left === null) return null;
  return spool.label_net ? spool.left / spool.label_net : spool.left / 1000;
}

const DECISION: Record<string, { sign: string; words: string; colour: string }> = {
  fit: { sign: "✓", words: "fit", colour: "var(--better)" },
  "dry first": { sign: "≈", words: "dry first", colour: "var(--caution)" },
  reject: { sign: "✕", words: "rejected", colour: "var(--worse)" },
  dried: { sign: "✓", words: "dried", colour: "var(--better)" },
  unchecked: { sign: "?", words: "not checked", colour: "var(--soft)" },
};

/** Intake decision by sign, word and colour; what was to be dried first and has been is dried. */
export function IntakeMark({ decision, dried = false, short = false }: { decision: string | null; dried?: boolean; short?: boolean }) {
  const v = DECISION[decision === "dry first" && dried ? "dried" : (decision ?? "unchecked")] ?? { sign: "?", words: "not checked", colour: "var(--soft)" };
  return (
    <span style={{ color: v.colour, fontWeight: 650, whiteSpace: "nowrap", ...(short ? { display: "inline-block", width: "1.1em", textAlign: "center" } : {}) }} title={short ? v.words : undefined}>
      <span aria-hidden={!short} aria-label={short ? v.words : undefined} role={short ? "img" : undefined}>
        {v.sign}
      </span>
      {!short && ` ${v.words}`}
    </span>
  );
}

/** Whether a spool is dry from a dryer: dried, and not open for too long since. */
export const isDried = ({ moisture }: Pick<SpoolItem, "moisture">): boolean => moisture.kind === "dried" && !moisture.stale;

/** Is the state one to act on before printing? Shown in the caution colour then. */
export function moistureDoubt(spool: Pick<SpoolItem, "moisture" | "decision">): boolean {
  const { kind, stale } = spool.moisture;
  return stale || (spool.decision === "dry first" && kind !== "dried" && kind !== "drying");
}
