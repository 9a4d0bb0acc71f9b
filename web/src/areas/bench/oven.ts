import { readNumber } from "../../ui/number";

/** One specimen in the oven; `outcome` where it did otherwise than expected. */
export interface Member {
  specimen_id: string;
  run_id: string;
  code: string;
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

export interface Sitting {
  rig: string;
  members: readonly Member[];
  track: readonly Read[];
  seen: readonly Seen[];
}

/** The letters by which specimens are told; U takes back. */
export const LETTERS = "abcdefghijklmnopqrst";

export const temperatureOf = (raw: string): number => readNumber(raw) ?? Number.NaN;

/** What is seen next of a specimen, or null where all that can be seen of it was. */
export function nextField(sitting: Sitting, specimen: string, fields: readonly string[]): string | null {
  return fields.find((f) => !sitting.seen.some((s) => s.specimen_id === specimen && s.field === f)) ?? null;
}

/** Why a letter cannot be taken now; null where it can. */
export function refusal(sitting: Sitting, letter: string, fields: readonly string[]): string | null {
  const member = sitting.members[LETTERS.indexOf(letter)];
  if (!member) return `no specimen is ${letter.toUpperCase()}`;
  if (!sitting.track.length) return "type first what the oven shows, then Enter";
  return nextField(sitting, member.specimen_id, fields) === null ? `all was seen of ${member.code}: U takes the last back` : null;
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
  if (own.length) return { readings: own, outcome: member.outcome };
  const last = sitting.track.at(-1);
  const field = fields[0];
  if (!last || !field || stood === null) return null;
  // it stood as long as anybody looked: what the oven showed last is the least that it bears
  return { readings: [{ id: member.run_id, specimen_id: member.specimen_id, field, at: last.at, raw: last.raw }], outcome: stood };
}
