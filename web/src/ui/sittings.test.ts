import { beforeEach, describe, expect, it, vi } from "vitest";

import { ovensHere, sittingKey } from "./sittings";

describe("ovens under way", () => {
  const kept = new Map<string, string>();
  const store = { get length() { return kept.size; }, key: (i: number) => [...kept.keys()][i] ?? null, getItem: (k: string) => kept.get(k) ?? null }; // prettier-ignore
  beforeEach(() => {
    kept.clear();
    vi.stubGlobal("window", { localStorage: store });
  });

  it("are those of this browser with somebody in them, the oldest first", () => {
    expect(ovensHere(store)).toEqual([]);
    kept.set("assayer.person", "\"Ilse\"");
    kept.set(sittingKey("b"), JSON.stringify({ members: [{ code: "BBB" }], begun: 200 }));
    kept.set(sittingKey("a"), JSON.stringify({ members: [{ code: "AAA" }, { code: "CCC" }], track: [], begun: 100 }));
    kept.set(sittingKey("empty"), JSON.stringify({ members: [], track: [] }));
    kept.set(sittingKey("old"), JSON.stringify({ members: [{ code: "OLD" }], track: [] }));
    expect(ovensHere(store)).toEqual([
      { testId: "old", codes: ["OLD"], begun: null },
      { testId: "a", codes: ["AAA", "CCC"], begun: 100 },
      { testId: "b", codes: ["BBB"], begun: 200 },
    ]);
  });
});
