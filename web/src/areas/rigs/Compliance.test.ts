import { expect, test } from "vitest";

import { queryOf } from "./Compliance";

test("the bar is told in mm and MPa, not at all, or it is asked for whole", () => {
  expect(queryOf({ length: "100", area: "64,5", modulus: "210" })).toBe("?bar_length=100&bar_area=64.5&bar_modulus=210000");
  expect(queryOf({ length: "", area: "", modulus: "210" })).toBe("");
  for (const wrong of [{ length: "100", area: "" }, { length: "abc", area: "64" }, { length: "0", area: "64" }, { length: "-1", area: "64" }]) expect(queryOf({ modulus: "210", ...wrong })).toBeUndefined();
});
