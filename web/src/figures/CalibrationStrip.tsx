import type { Schemas } from "../api/client";
import { onDay } from "../ui/format";
import { scale } from "./scale";

interface CalibrationStripProps {
  calibrations: readonly Schemas["CalibrationView"][];
  now: number;
  chosen: string | null;
  onChoose: (id: string) => void;
}

const [WIDE, ROW, LEFT] = [640, 34, 90];
const DAY = 86_400_000;

/** Which factor held when: a bar for each calibration over time, today, and when each is to be done again. */
export function CalibrationStrip({ calibrations, now, chosen, onChoose }: CalibrationStripProps) {
  const standing = calibrations.filter((c) => c.retracted_at === null);
  const channels = [...new Set(standing.map((c) => c.channel))];
  const starts = standing.map((c) => Date.parse(c.valid_from));
  const ends = standing.map((c) => Date.parse(c.due_at ?? c.valid_to ?? c.valid_from));
  const first = Math.min(...starts, now);
  const last = Math.max(...ends, now);
  const x = scale([first - 0.06 * (last - first) - DAY, last + 0.06 * (last - first) + DAY], LEFT, WIDE - 10);
  const high = channels.length * ROW + 44;
  return (
    <svg viewBox={`0 0 ${WIDE} ${high}`} style={{ width: "100%", maxWidth: 760, display: "block" }} role="group" aria-label="Calibrations over time">
      {channels.map((channel, row) => (
        <g key={channel} transform={`translate(0 ${row * ROW + 6})`}>
          <text y="19" fontSize="13.5" fill="var(--soft)">
            {channel}
          </text>
          {standing
            .filter((c) => c.channel === channel)
            .map((c) => {
              const from = x(Date.parse(c.valid_from));
              const to = Math.min(x(c.valid_to ? Date.parse(c.valid_to) : now), WIDE - 10);
              const due = c.due_at ? x(Date.parse(c.due_at)) : null;
              return (
                <g key={c.id} role="button" onClick={() => onChoose(c.id)} style={{ cursor: "pointer" }}>
                  <rect x={from} y="2" width={Math.max(4, to - from)} height="24" rx="4" fill="var(--raised)" stroke={c.id === chosen ? "var(--accent)" : "var(--ink)"} strokeWidth={c.id === chosen ? 2.4 : 1.2} />
                  <text x={to - from > 90 ? from + 7 : to + 7} y="19" fontSize="13" fontFamily="var(--mono)" fill="var(--ink)" >
                    × {c.factor.toFixed(4)}
                  </text>
                  {due !== null && <path d={`M${due} 0v28M${due} 0l9 5l-9 5`} fill={Date.parse(c.due_at ?? "") < now ? "var(--caution)" : "none"} stroke={Date.parse(c.due_at ?? "") < now ? "var(--caution)" : "var(--soft)"} strokeWidth="1.5" />}
                </g>
              );
            })}
        </g>
      ))}
      <line x1={x(now)} x2={x(now)} y1="0" y2={high - 30} stroke="var(--accent)" strokeDasharray="3 3" />
      <text x={x(now)} y={high - 14} textAnchor="middle" fontSize="12.5" fill="var(--accent)">
        today
      </text>
      {x(now) - x(first) > 90 && (
        <text x={x(first)} y={high - 14} fontSize="12.5" fill="var(--soft)">
          {onDay(new Date(first).toISOString())}
        </text>
      )}
    </svg>
  );
}
