import { expect, test } from "vitest";

import type { Schemas } from "../../api/client";
import { geometryOf, shareAt, xAt } from "./geometry";

const bar = (dimensions: Record<string, number>): Schemas["ShapeView"] => ({ name: "b", label: "b", family: "pull bar", dimensions, strain_lengths: {}, features: [] });

test.each([
  { parallel: 24, overall: 70, width: 5, end_width: 12 },
  { parallel: 9.53, overall: 63.5, width: 3.18, end_width: 9.53 },
  { parallel: 80, overall: 170, width: 10, end_width: 20 },
])("a touch where the parallel part begins is that share of the bar, however it is drawn", (dimensions) => {
  const g = geometryOf(bar(dimensions));
  const begins = (1 - dimensions.parallel / dimensions.overall) / 2;
  const drawn = (g.stretched ?? [])[1]?.[0] ?? 0;
  expect(shareAt(g, drawn)).toBeCloseTo(begins, 9);
  expect(shareAt(g, drawn - 20)).toBeLessThan(begins);
  for (const share of [0, 0.1, begins, 0.4, 0.5, 0.9, 1]) expect(shareAt(g, xAt(g, share))).toBeCloseTo(share, 9);
  expect([shareAt(g, 0), shareAt(g, 5000)]).toEqual([0, 1]);
});
