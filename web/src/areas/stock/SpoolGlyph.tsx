import type { Schemas } from "../../api/client";

type SpoolItem = Schemas["SpoolItem"];

const HUB = 5.5;
const RIM = 14;

interface SpoolGlyphProps {
  hex: string;
  /** Filament left as a share of what a full spool holds; null: not known. */
  share: number | null;
  size?: number;
}

/** A spool from the side: what is wound on it has the area of what is left. */
export function SpoolGlyph({ hex, share, size = 32 }: SpoolGlyphProps) {
  const full = Math.min(1, Math.max(0, share ?? 0));
  const wound = Math.sqrt(HUB ** 2 + full * (RIM ** 2 - HUB ** 2));
  return (
    <svg width={size} height={size} viewBox="0 0 32 32" aria-hidden="true" style={{ flex: "none" }}>
      <circle cx="16" cy="16" r="15" fill="var(--surface)" stroke="var(--ink)" strokeWidth="1.1" />
      {full > 0 && <circle cx="16" cy="16" r={wound} fill={hex} stroke="var(--ink)" strokeWidth="0.6" />}
      <circle cx="16" cy="16" r={HUB} fill="var(--raised)" stroke="var(--ink)" strokeWidth="0.9" />
      <circle cx="16" cy="16" r="2" fill="var(--ground)" stroke="var(--ink)" strokeWidth="0.9" />
      {share === null && (
        <text x="16" y="20" textAnchor="middle" fontSize="11" fontWeight="700" fill="var(--ink)">
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

const VERDICT: Record<string, { sign: string; words: string; colour: string }> = {
  fit: { sign: "✓", words: "fit", colour: "var(--better)" },
  "dry first": { sign: "≈", words: "dry first", colour: "var(--caution)" },
  reject: { sign: "✕", words: "rejected", colour: "var(--worse)" },
  unchecked: { sign: "?", words: "not checked", colour: "var(--soft)" },
};

/** Intake verdict by sign, word and colour. */
export function IntakeMark({ verdict, short = false }: { verdict: string | null; short?: boolean }) {
  const v = VERDICT[verdict ?? "unchecked"] ?? { sign: "?", words: "not checked", colour: "var(--soft)" };
  return (
    <span style={{ color: v.colour, fontWeight: 650, whiteSpace: "nowrap" }} title={short ? v.words : undefined}>
      <span aria-hidden={!short} aria-label={short ? v.words : undefined} role={short ? "img" : undefined}>
        {v.sign}
      </span>
      {!short && ` ${v.words}`}
    </span>
  );
}

/** Is the state one to act on before printing? Shown in the caution colour then. */
export function moistureDoubt(spool: Pick<SpoolItem, "moisture" | "verdict">): boolean {
  const { kind, stale } = spool.moisture;
  return stale || (spool.verdict === "dry first" && kind !== "dried" && kind !== "drying");
}
