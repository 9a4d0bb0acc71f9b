import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { shownCurve } from "../figures/shownCurve";
import { amount, difference, inShown, load, setting, spanWords } from "./format";
import { chooseUnits, shownQuantity, shownUnit } from "./units";

const option = (base: string, unit: string, factor: number, offset = 0) => [{ base, unit, factor, offset }];
const OUNCE = 28.349523125;

beforeEach(() => {
  const kept = new Map<string, string>();
  vi.stubGlobal("localStorage", { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => kept.set(k, v) });
});
afterEach(() => {
  for (const name of ["stress", "force", "length", "temperature", "mass", "speed"]) chooseUnits(name, null);
  vi.unstubAllGlobals();
});

describe("units shown", () => {
  it("are the kept ones until others are chosen; ratios of lengths are per cent, ratios of means bare", () => {
    expect(shownUnit("MPa")).toMatchObject({ unit: "MPa", factor: 1 });
    expect(shownUnit("1")).toMatchObject({ unit: "%", factor: 100 });
    expect(shownQuantity({ unit: "1", derived: true })).toMatchObject({ unit: "", factor: 1 });
    expect(shownQuantity({ unit: "1", derived: false }).at(0.02)).toBe(2);
    expect([amount(985.4, "g", 0), setting(215, "°C"), spanWords(40, 80, "mm/s")]).toEqual(["985 g", "215 °C", "40–80 mm/s"]);
  });
  it("follow what is chosen, and go back", () => {
    chooseUnits("stress", option("MPa", "psi", 145.03773773));
    expect(shownUnit("MPa").at(45.7)).toBeCloseTo(6628.22, 2);
    expect(shownUnit("MPa").back(shownUnit("MPa").at(45.7))).toBeCloseTo(45.7, 12);
    expect(shownUnit("MPa").ends([40, 50])[1]).toBeCloseTo(7251.89, 2);
    expect(shownUnit("N").unit).toBe("N");
    chooseUnits("force", option("N", "lbf", 1 / 4.4482216152605));
    expect([shownUnit("MPa").unit, shownUnit("N").unit]).toEqual(["psi", "lbf"]);
    chooseUnits("stress", null);
    expect([shownUnit("MPa").unit, shownUnit("N").unit]).toEqual(["MPa", "lbf"]);
  });
  it("move the zero of temperatures, not that of their differences", () => {
    chooseUnits("temperature", option("°C", "°F", 1.8, 32));
    expect([setting(215, "°C"), setting(-40, "°C"), amount(23.4, "°C", 1), difference(5, "°C", 0)]).toEqual(["419 °F", "−40 °F", "74.1 °F", "9 °F"]);
    expect(shownUnit("°C").back(419)).toBeCloseTo(215, 12);
  });
  it("lose no digit that was there", () => {
    chooseUnits("mass", option("g", "oz", 1 / OUNCE));
    chooseUnits("length", option("mm", "in", 1 / 25.4));
    expect([amount(985, "g", 0), inShown(985, "g", 0), amount(1.752, "mm", 3), difference(0.0042, "mm", 4)]).toEqual(["34.74 oz", "34.74", "0.06898 in", "0.000165 in"]);
    for (const g of [3, 217, 985, 1000]) expect(Math.round(Number(inShown(g, "g", 0)) * OUNCE)).toBe(g);
    chooseUnits("stress", option("MPa", "psi", 145.03773773));
    expect(amount(45.71, "MPa", 2)).toBe("6630 psi");
  });
  it("show loads with the three digits that weights are known to", () => {
    expect([load(23.536), load(120), load(0.4567)]).toEqual(["23.5 N", "120 N", "0.457 N"]);
    chooseUnits("force", option("N", "kgf", 1 / 9.80665));
    expect(load(23.536)).toBe("2.4 kgf");
  });
  it("say ranges that are open at one end", () => {
    chooseUnits("speed", [...option("mm/s", "mm/min", 60), ...option("mm³/s", "cm³/min", 0.06)]);
    expect([spanWords(40, 80, "mm/s"), spanWords(null, 80, "mm/s"), spanWords(40, null, "mm/s"), spanWords(40, 40, "mm/s"), setting(12, "mm³/s")]).toEqual([
      "2400–4800 mm/min", "at most 4800 mm/min", "at least 2400 mm/min", "2400 mm/min", "0.72 cm³/min",
    ]); // prettier-ignore
  });
  it("are the kept ones where the browser holds something unreadable", async () => {
    for (const broken of ["{", "[]", '{"stress":[{"base":"MPa","unit":"psi","factor":0,"offset":0}]}', '{"stress":[{"base":"MPa","unit":"psi","factor":"2","offset":0}]}']) {
      localStorage.setItem("assayer.units", broken);
      vi.resetModules();
      expect((await import("./units")).shownUnit("MPa")).toMatchObject({ unit: "MPa", factor: 1 });
    }
  });
  it("turn both axes of a curve, and leave the points of one in kept units as they are", () => {
    const curve = { id: "r", x_label: "deflection", x_unit: "mm", y_label: "load", y_unit: "N", marks: {}, points: 2, xy: new Float64Array([0, 0, 25.4, 100]) };
    expect(shownCurve(curve).xy).toBe(curve.xy);
    chooseUnits("force", option("N", "kgf", 1 / 9.80665));
    const turned = shownCurve(curve);
    expect([turned.x_unit, turned.y_unit, turned.xy[2], turned.xy[3]?.toFixed(4)]).toEqual(["mm", "kgf", 25.4, "10.1972"]);
    expect(curve.xy[3]).toBe(100);
  });
});
