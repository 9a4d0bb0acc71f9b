/** A notched bar as the hammer left it, by the letter of its break: in two, on a hinge, half through, only bent. */
const PICTURES: Record<string, React.ReactNode> = {
  C: <path d="M3 20L20 20L23 27L20 29H3ZM33 6L48 12L45 20L30 14L31 10Z" />,
  H: <path d="M3 22H24L27 28V31H3ZM27 31V27L30 21L46 6L51 12L33 30Z" />,
  P: <path d="M3 21L24 18L26 25L28 18L49 21V30L28 28L3 30Z" />,
  N: <path d="M3 18Q26 32 49 18L52 25Q26 41 0 25Z M23 26L26 30L29 26" />,
};

export function BreakPictogram({ symbol }: { symbol: string }) {
  return (
    <svg viewBox="0 0 54 38" width="46" height="32" aria-hidden="true" style={{ verticalAlign: "middle", marginRight: 8 }}>
      <g fill="var(--raised)" stroke="currentColor" strokeWidth="2" strokeLinejoin="round">
        {PICTURES[symbol]}
      </g>
      <text x="1" y="13" fontSize="14" fontWeight="700" fill="currentColor">
        {symbol}
      </text>
    </svg>
  );
}
