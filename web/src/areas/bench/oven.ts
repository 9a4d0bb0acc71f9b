import { readNumber } from "../../ui/number";

/** One specimen in the oven; `outcome` where it did otherwise than expected. */
export interface Member {
  specimen_id: string;
  run_id: string;
  code: string;
  /** By which it is told; it keeps it when another one is left out. */
  letter: string;
  outcome: string | null;
}

/** A reading of the oven's own thermometer, as typed. */
export interface Read {
  at: number;
  raw: string;
}

/** Something seen of a specimen, at the temperature that was read last. */
export interface Seen {
  id: string;
  specimen_id: string;
  field: string;
  at: number;
  raw: string;
}

/** What a logger wrote: the file as it came, for the runs of those that were in; points in s from its first row and °C. */
export interface Log {
  id: string;
  name: string;
  text: string;
  /** When its first row was written. */
  begins: number;
  points: readonly (readonly [number, number])[];
}

export interface Sitting {
  rig: string;
  members: readonly Member[];
  track: readonly Read[];
  seen: readonly Seen[];
  /** When they were put in. */
  begun?: number;
  /** Whether a logger writes the temperature, and its file comes afterwards. */
  logged?: boolean;
  log?: Log | null;
  /** How many K apart it was looked at, as typed, where that is not what the oven's page says. */
  every?: string;
}

/** The letters by which specimens are told; U takes back. */
export const LETTERS = "abcdefghijklmnopqrst";

export const temperatureOf = (raw: string): number => readNumber(raw.replace(/ °C$/, "")) ?? Number.NaN;

/** What is seen next of a specimen, or null where all that can be seen of it was. */
export function nextField(sitting: Sitting, specimen: string, fields: readonly string[]): string | null {
  return fields.find((f) => !sitting.seen.some((s) => s.specimen_id === specimen && s.field === f)) ?? null;
}

/** Why a letter cannot be taken now; null where it can. */
export function refusal(sitting: Sitting, letter: string, fields: readonly string[]): string | null {
  const member = sitting.members.find((m) => m.letter === letter);
  if (!member) return `no specimen is ${letter.toUpperCase()}`;
  if (!sitting.track.length && !sitting.logged && !sitting.log) return "type first what the oven shows, then Enter";
  return nextField(sitting, member.specimen_id, fields) === null ? `all was seen of ${member.code}: U takes the last back` : null;
}

/** What the logger's thermometer showed at an instant, °C; null while it did not write. */
export function loggedAt(log: Log, at: number): number | null {
  const after = (at - log.begins) / 1000;
  const next = log.points.findIndex(([t]) => t >= after);
  const [right, left] = [log.points[next], log.points[next - 1]];
  if (!right || (right[0] > after && !left)) return null;
  if (!left || right[0] === after) return right[1];
  return left[1] + ((right[1] - left[1]) * (after - left[0])) / (right[0] - left[0]);
}

/** At which temperature something was seen: the logger's where it wrote, else what was typed last; empty where neither is known. */
export function seenAt(sitting: Sitting, seen: Seen): string {
  const logged = sitting.log ? loggedAt(sitting.log, seen.at) : null;
  return logged === null ? seen.raw : `${logged.toFixed(1)} °C`;
}

/** How far a time of day may lie from when they were put in and still be one: further off it counts from 0. */
const NEAR = 3 * 3_600_000;

/** When a log begins by the first cell of its time column; when they were put in, where that tells no time of day. */
export function beginsAt(cell: string, begun: number): number {
  const years = /^(\d{4})-(\d\d)-(\d\d)[T ](\d\d):(\d\d)(?::(\d\d))?/.exec(cell);
  const days = /^(\d\d)\.(\d\d)\.(\d{4}) (\d\d):(\d\d)(?::(\d\d))?/.exec(cell);
  const of = (parts: readonly (string | undefined)[]) => parts.map((p) => Number(p ?? 0));
  if (years) {
    const [y = 0, m = 1, d = 1, ...time] = of(years.slice(1));
    return new Date(y, m - 1, d, ...(time as [number, number, number])).getTime();
  }
  if (days) {
    const [d = 1, m = 1, y = 0, ...time] = of(days.slice(1));
    return new Date(y, m - 1, d, ...(time as [number, number, number])).getTime();
  }
  const clock = /^(\d\d?):(\d\d)(?::(\d\d))?/.exec(cell);
  return clock ? (clockNear(cell, begun, NEAR) ?? begun) : begun;
}

/** The instant nearest to another one at a time of day, as typed; null where it is none, or further off than `most`. */
export function clockNear(text: string, near: number, most = 12 * 3_600_000): number | null {
  const clock = /^([01]?\d|2[0-3]):([0-5]\d)(?::([0-5]\d))?/.exec(text.trim());
  if (!clock) return null;
  const day = new Date(near);
  day.setHours(Number(clock[1]), Number(clock[2]), Number(clock[3] ?? 0), 0);
  const found = [-1, 0, 1].map((d) => day.getTime() + d * 86_400_000).reduce((a, b) => (Math.abs(b - near) < Math.abs(a - near) ? b : a));
  return Math.abs(found - near) <= most ? found : null;
}

/** What a thermometer may hardly show next: words to ask by, or null. */
export function oddReading(track: readonly Read[], raw: string): string | null {
  const value = temperatureOf(raw);
  if (!Number.isFinite(value)) return `“${raw}” is no temperature`;
  const last = track.at(-1);
  const before = last ? temperatureOf(last.raw) : null;
  if (before === null) return null;
  if (value < before - 15) return `${raw} after ${last?.raw ?? ""}: it cooled down? Enter again keeps it`;
  return value > before + 60 ? `${raw} after ${last?.raw ?? ""}: that is a leap. Enter again keeps it` : null;
}

/** What happens to a specimen when the sitting ends: with what was seen of it, or as one that stood to the end. */
export function ended(sitting: Sitting, member: Member, fields: readonly string[], stood: string | null): { readings: readonly Seen[]; outcome: string | null } | null {
  const own = sitting.seen.filter((s) => s.specimen_id === member.specimen_id);
  if (own.length) {
    const readings = own.map((s) => ({ ...s, raw: seenAt(sitting, s) }));
    return readings.every((s) => s.raw) ? { readings, outcome: member.outcome } : null;
  }
  const last = lastShown(sitting);
  const field = fields[0];
  if (!last || !field || stood === null) return null;
  // it stood as long as anybody looked: what the oven showed last is the least that it bears
  return { readings: [{ id: member.run_id, specimen_id: member.specimen_id, field, at: last.at, raw: last.raw }], outcome: stood };
}

/** What the oven showed last: the log's last row, or what was typed last. */
function lastShown({ log, track }: Sitting): Read | null {
  const end = log?.points.at(-1);
  return log && end ? { at: log.begins + end[0] * 1000, raw: `${end[1].toFixed(1)} °C` } : (track.at(-1) ?? null);
}

/** Codes of those that were seen while no temperature was known: the log is to be read, or begins at another time. */
export function unknown(sitting: Sitting): string[] {
  return sitting.members.filter((m) => sitting.seen.some((s) => s.specimen_id === m.specimen_id && !seenAt(sitting, s))).map((m) => m.code);
}

/** What is asked before those that still stand are taken out; null where every one was seen to give way. */
export function endQuestion(sitting: Sitting, fields: readonly string[], stood: string | null): string | null {
  const left = sitting.members.filter((m) => ended(sitting, m, fields, stood)?.outcome === stood && !sitting.seen.some((s) => s.specimen_id === m.specimen_id));
  if (!left.length || stood === null) return null;
  const sagged = sitting.members.length - left.length;
  return `${String(sagged)} of ${String(sitting.members.length)} sagged; ${left.map((m) => m.code).join(", ")} would count as withstanding ${lastShown(sitting)?.raw ?? ""}: end here?`;
}

/** Why they cannot be taken out yet; null where nothing is in the way. */
export function inTheWay(sitting: Sitting): string | null {
  const dark = unknown(sitting);
  if (dark.length) return `${dark.join(", ")}: no temperature is known for when that was seen. ${sitting.log ? "Set when the log begins" : "Read the logger’s file"}, or leave it out`;
  const every = sitting.every?.trim();
  return every && !((readNumber(every) ?? 0) > 0) ? `“${every}” is no step: looked every so many K, such as 0.5` : null;
}
