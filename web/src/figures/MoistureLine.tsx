import type { Schemas } from "../api/client";
import { atMinute, onDay, setting } from "../ui/format";
import { scale } from "./scale";

interface MoistureLineProps {
  moves: readonly Schemas["MoveView"][];
  sessions: readonly Schemas["SpoolSession"][];
  from: string;
}

const W = 560;
const LEFT = 8;
const RIGHT = 8;

/** Where the spool lay and when it was dried: open time high and hatched, a closed box or bag low, the dryer filled. */
export function MoistureLine({ moves, sessions, from }: MoistureLineProps) {
  const now = Date.now();
  const start = Math.min(new Date(from).getTime(), ...moves.map((m) => new Date(m.at).getTime()), ...sessions.map((s) => new Date(s.started_at).getTime()));
  const x = scale([start, Math.max(now, start + 3_600_000)], LEFT, W - RIGHT);
  const spans = [{ at: start, storage: "sealed bag", place: "", humidity: null as number | null }, ...moves.map((m) => ({ ...m, at: new Date(m.at).getTime() }))].map((m, i, all) => ({ ...m, until: all[i + 1]?.at ?? now }));
  const words = [
    ...moves.map((m) => `${atMinute(m.at)} ${m.storage}${m.place ? `, ${m.place}` : ""}`),
    ...sessions.map((s) => `dried from ${atMinute(s.started_at)} at ${setting(s.temperature, "°C")}${s.ended_at ? ` to ${atMinute(s.ended_at)}` : ", still running"}`),
  ].join("; ");
  const top = (storage: string) => (storage === "open" ? 14 : storage === "dry box" ? 38 : 46);
  return (
    <svg viewBox={`0 0 ${W} 96`} style={{ width: "100%", display: "block" }} role="img" aria-label={`Storage and drying: ${words || "nothing recorded"}`} fontFamily="var(--sans)">
      <pattern id="open-air" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="6" height="6" fill="var(--surface)" />
        <rect width="2" height="6" fill="var(--caution)" />
      </pattern>
      {spans.map((s, i) => {
        const wide = Math.max(0, x(s.until) - x(s.at));
        return (
          <g key={i}>
            <rect x={x(s.at)} y={top(s.storage)} width={wide} height={56 - top(s.storage)} fill={s.storage === "open" ? "url(#open-air)" : "var(--raised)"} stroke="var(--soft)" strokeWidth="0.8" />
            {wide > 62 && (
              <text x={x(s.at) + 5} y={s.storage === "open" ? 11 : top(s.storage) - 4} fontSize="11.5" fill={s.storage === "open" ? "var(--caution)" : "var(--soft)"}>
                {s.storage === "open" ? "open" : s.place || s.storage}
                {s.humidity !== null && `, ${s.humidity} % RH`}
              </text>
            )}
          </g>
        );
      })}
      {sessions.map((s) => {
        const a = x(new Date(s.started_at).getTime());
        const b = x(s.ended_at ? new Date(s.ended_at).getTime() : now);
        return (
          <g key={s.id}>
            <rect x={a} y="60" width={Math.max(4, b - a)} height="12" rx="2" fill="var(--accent)" />
            <text x={a + Math.max(4, b - a) / 2} y="84" textAnchor={a > W - 60 ? "end" : a < 60 ? "start" : "middle"} fontSize="11.5" fontFamily="var(--mono)" fill="var(--ink)">
              {setting(s.temperature, "°C")}{s.lost !== null && ` −${(100 * s.lost).toFixed(2)} %`}
            </text>
          </g>
        );
      })}
      <line x1={LEFT} x2={W - RIGHT} y1="57" y2="57" stroke="var(--ink)" />
      <text x={LEFT} y="95" fontSize="11.5" fill="var(--soft)">
        {onDay(new Date(start).toISOString())}
      </text>
      <text x={W - RIGHT} y="95" textAnchor="end" fontSize="11.5" fill="var(--soft)">
        now
      </text>
    </svg>
  );
}
