import { readLocalStorageValue } from "@mantine/hooks";

const KEY = "assayer.oven.";

/** Where the sitting of a test at an oven is kept in this browser. */
export const sittingKey = (testId: string): string => `${KEY}${testId}`;

/** A sitting under way, as others may show it. */
export interface Underway {
  testId: string;
  codes: string[];
  /** When they were put in; null of a sitting that was begun before that was kept. */
  begun: number | null;
}

interface Kept {
  members?: { code: string }[];
  begun?: number;
}

/** The sittings at ovens that are under way in this browser, the oldest first. */
export function ovensHere(store: Pick<Storage, "length" | "key"> = localStorage): Underway[] {
  const keys = Array.from({ length: store.length }, (_, i) => store.key(i)).filter((k): k is string => k?.startsWith(KEY) ?? false);
  return keys
    .map((key) => ({ key, kept: readLocalStorageValue<Kept | undefined>({ key }) }))
    .filter(({ kept }) => kept?.members?.length)
    .map(({ key, kept }) => ({ testId: key.slice(KEY.length), codes: kept?.members?.map((m) => m.code) ?? [], begun: kept?.begun || null }))
    .sort((a, b) => (a.begun ?? 0) - (b.begun ?? 0));
}
