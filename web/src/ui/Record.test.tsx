import { expect, test } from "vitest";

import { atMinute } from "./format";
import { told } from "./Record";

test("moments in the record are read in the reader's time, everything else as it is", () => {
  const at = "2026-11-16T10:42:57.081965+00:00";
  expect(told({ changes: [{ name: "valid_from", before: at, after: null }] })).toBe(`valid from ${atMinute(at)} → –`);
  expect(told({ changes: [{ name: "due_on", before: "2026-11-16", after: "2026-11-17" }, { name: "factor", before: "1.004", after: "1.02" }] })).toBe("due on 2026-11-16 → 2026-11-17, factor 1.004 → 1.02");
});
