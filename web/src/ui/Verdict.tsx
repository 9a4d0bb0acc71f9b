import type { Schemas } from "../api/client";

export type VerdictWord = Schemas["VerdictView"]["word"] | "reference";

export const verdictColour: Record<VerdictWord, string> = {
  better: "var(--better)",
  worse: "var(--worse)",
  higher: "var(--better)",
  lower: "var(--worse)",
  equivalent: "var(--equivalent)",
  undecided: "var(--equivalent)",
  "no verdict": "var(--equivalent)",
  reference: "var(--ink)",
};

/** Shapes that tell the verdicts apart without colour; 12 × 12, drawn about (6, 6). */
export function VerdictGlyph({ verdict, x = 0, y = 0 }: { verdict: VerdictWord; x?: number; y?: number }) {
  const colour = verdictColour[verdict];
  const at = `translate(${x} ${y})`;
  switch (verdict) {
    case "better":
    case "higher":
      return <path transform={at} d="M6 1.2 11 10.4H1z" fill={colour} />;
    case "worse":
    case "lower":
      return <path transform={at} d="M6 10.8 11 1.6H1z" fill={colour} />;
    case "equivalent":
      return <path transform={at} d="M1 4h10M1 8.4h10" stroke={colour} strokeWidth="2" />;
    case "reference":
      return <path transform={at} d="M6 .8 11.2 6 6 11.2.8 6z" fill={colour} />;
    case "undecided":
      return (
        <g transform={at}>
          <rect x="1" y="1" width="10" height="10" rx="2" fill="none" stroke={colour} strokeWidth="1.3" />
          <path d="M1.5 7.5 7.5 1.5M4 11 11 4" stroke={colour} strokeWidth="1.1" />
        </g>
      );
    case "no verdict":
      return <path transform={at} d="M2 6h8" stroke={colour} strokeWidth="1.6" strokeDasharray="2 2" />;
  }
}

export function VerdictMark({ verdict, label = true }: { verdict: VerdictWord; label?: boolean }) {
  return (
    <span style={{ display: "inline-flex", alignItems: "center", gap: 6, color: verdictColour[verdict], fontWeight: 600, whiteSpace: "nowrap" }}>
      <svg width="12" height="12" viewBox="0 0 12 12" {...(label ? { "aria-hidden": true } : { role: "img", "aria-label": verdict })}>
        <VerdictGlyph verdict={verdict} />
      </svg>
      {label && verdict}
    </span>
  );
}

interface VerdictLegendProps {
  /** Whether something prevents an answer, @default false */
  problems?: boolean | undefined;
  /** Whether anything is in doubt, @default false */
  doubts?: boolean | undefined;
  /** Whether an arm of one batch has a second interval, @default false */
  thin?: boolean | undefined;
}

export function VerdictLegend({ problems = false, doubts = false, thin = false }: VerdictLegendProps) {
  return (
    <div style={{ display: "flex", flexWrap: "wrap", gap: "0.2rem 1.5rem", fontSize: "0.85rem", alignItems: "center" }} className="soft">
      {(["better", "worse", "equivalent", "undecided", "no verdict"] as const).map((v) => (
        <VerdictMark key={v} verdict={v} />
      ))}
      <span>
        <VerdictMark verdict="reference" label={false} /> reference; band = difference that matters
      </span>
      <span>○ left out</span>
      <span>→ at least</span>
      <span>◇ shown apart: other rig or other end</span>
      <span>◌ readings still to come</span>
      <span>line = 95 % interval, ◂ ▸ where it goes on</span>
      {thin && <span>thin line = the same over batches, for an arm of one batch</span>}
      {doubts && <span>? in doubt</span>}
      {problems && <span>! something prevents an answer</span>}
    </div>
  );
}
