import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";

import type { Schemas } from "../api/client";
import type { CurveData } from "../api/curves";
import { BoardCell } from "./BoardCell";
import { CalibrationStrip } from "./CalibrationStrip";
import { DiameterStrip } from "./DiameterStrip";
import { DotInterval } from "./DotInterval";
import { PullCurve } from "./PullCurve";
import { RankFigure } from "./RankFigure";
import { Interval } from "./Interval";
import { domainOf, domainWith, scale } from "./scale";
import { linear } from "../ui/units";

/** All values of an attribute of an element, in the order drawn. */
const all = (svg: string, element: string, attribute: string): string[] => [...svg.matchAll(new RegExp(`<${element}\\b[^>]*?\\s${attribute}="([^"]*)"`, "g"))].map((m) => m[1] ?? "");
const texts = (svg: string): string[] => [...svg.matchAll(/<text[^>]*>(.*?)<\/text>/gs)].map((m) => (m[1] ?? "").replace(/<!-- -->/g, "").replace(/<[^>]*>/g, ""));

const material = (product: string, more: Partial<Schemas["MaterialView"]> = {}) => ({ maker: "Hollin", product, colour: "amber", hex: "#D9962B", filler: null, filler_share: null, ...more }) as Schemas["MaterialView"];
const arm = (id: string, product: string) => ({ id, mark: id.toUpperCase(), treatment: "", differs: {}, material: material(product) }) as Schemas["ArmView"];
const group = (mean: number, half: number | null, more: Partial<Schemas["GroupView"]> = {}): Schemas["GroupView"] =>
  ({ n: 3, mean, sd: 1, cv: null, ci95: half === null ? null : [mean - half, mean + half], median: mean, minimum: mean, maximum: mean, at_least: 0, at_most: 0, batches: 1, within_sd: null, ci95_new_batch: null, ...more });
const dot = (id: string, value: number | null, more: Partial<Schemas["DotView"]> = {}): Schemas["DotView"] => ({ run_id: id, specimen_id: id, code: id.toUpperCase(), value, bound: "exact", state: "counts", reason: null, ...more });
const cell = (more: Partial<Schemas["CellView"]>): Schemas["CellView"] =>
  ({ arm_id: "a", planned: 3, printed: 3, measured: 0, treated: 0, tested: 0, batches: 1, dots: [], group: null, verdict: null, derived: [], notes: [], ...more });

describe("a scale", () => {
  it("is linear from end to end and holds its domain", () => {
    const at = scale([10, 30], 100, 200);
    expect([10, 20, 30].map(at)).toEqual([100, 150, 200]);
    expect(scale([5, 5], 0, 10)(5)).toBe(0);
  });
  it("leaves a little air about the values, also about one alone", () => {
    expect(domainOf([10, 20], 0.1)).toEqual([9, 21]);
    expect(domainOf([10], 0.1)).toEqual([9, 11]);
    expect(domainOf([Number.NaN])).toEqual([0, 1]);
  });
});

describe("intervals that go far", () => {
  it("widen the axis by no more than the values span", () => {
    expect(domainWith([10, 12], [[9, 13]], 0)).toEqual([9, 13]);
    expect(domainWith([10, 12], [[-80, 100]], 0)).toEqual([8, 14]);
    expect(domainWith([10], [[-80, 100]], 0)).toEqual([5, 15]);
    expect(domainWith([], [[2, 4]], 0)).toEqual([2, 4]);
  });
  it("end in an arrow where they are cut, on the side where they are", () => {
    const at = scale([8, 14], 0, 60);
    const drawn = (ci: [number, number]) => renderToStaticMarkup(<svg><Interval ci={ci} at={at} y={0} colour="red" width={2} /></svg>);
    expect([all(drawn([9, 13]), "line", "x1"), all(drawn([9, 13]), "line", "x2"), all(drawn([9, 13]), "path", "d")]).toEqual([["10"], ["50"], []]);
    expect([all(drawn([-9, 13]), "line", "x1"), all(drawn([-9, 13]), "path", "d")]).toEqual([["0"], ["M8 -5L0 0L8 5Z"]]);
    expect([all(drawn([9, 99]), "line", "x2"), all(drawn([9, 99]), "path", "d")]).toEqual([["60"], ["M52 -5L60 0L52 5Z"]]);
    const beyond = drawn([-9, -4]);
    expect([all(beyond, "line", "x1"), all(beyond, "line", "x2"), all(beyond, "path", "d")]).toEqual([["0"], ["0"], ["M8 -5L0 0L8 5Z"]]);
  });
});

describe("a cell of the board", () => {
  const at = scale([0, 100], 0, 200);
  const draw = (c: Schemas["CellView"], more: object = {}) => renderToStaticMarkup(<BoardCell cell={c} verdict="better" at={at} reference={40} margin={4} shown={linear("MPa", 1)} width={200} height={60} {...more} />);

  it("shows the plan until something is tested: planned, printed, treated, measured", () => {
    const svg = draw(cell({ planned: 5, printed: 4, treated: 3, measured: 2 }));
    expect(all(svg, "circle", "fill")).toEqual(["var(--soft)", "var(--soft)", "var(--line)", "var(--ink)", "var(--line)", "none"]);
    expect(texts(svg)).toEqual(["2 measured, 0 of 5 done"]);
    expect(texts(draw(cell({ planned: 5, printed: 0 })))).toEqual(["5 planned"]);
    expect(texts(draw(cell({ planned: 5, printed: 3 })))).toEqual(["3 of 5 printed"]);
    expect(texts(draw(cell({ planned: 5, printed: 5 })))).toEqual(["5 printed"]);
  });
  it("puts mean, interval, specimens and what matters where the scale says", () => {
    const svg = draw(cell({ tested: 2, dots: [dot("a", 44), dot("b", 48)], group: group(46, 3) }));
    const circles = all(svg, "circle", "cx").map(Number);
    expect(circles).toEqual([92, 88, 96]);
    expect(Number(all(svg, "rect", "x")[0])).toBe(72);
    expect(Number(all(svg, "rect", "width")[0])).toBe(16);
    expect(svg).toContain('x1="86" x2="98"');
    expect(texts(svg)).toEqual(["46.0", "2 of 3"]);
  });
  it("tells bounds by an arrow and a sign, left-outs hollow, another rig as a diamond", () => {
    const svg = draw(cell({ tested: 3, dots: [dot("a", 44, { bound: "at_least" }), dot("b", 48, { state: "left_out" }), dot("c", 50, { state: "apart" }), dot("d", null)], group: group(44, null, { at_least: 1 }) }));
    expect(texts(svg)[0]).toBe("≥ 44.0");
    expect(all(svg, "circle", "fill").slice(1)).toEqual(["var(--better)", "var(--surface)"]);
    expect(svg.match(/L[\d.]+ [\d.]+Z/g)).toHaveLength(1);
    expect(svg).toMatch(/d="M92\.6 25\.2h11/);
    expect(texts(draw(cell({ tested: 1, dots: [dot("a", 44)], group: group(44, null, { at_most: 1 }) })))[0]).toBe("≤ 44.0");
  });
  it("shows the unit that is shown, not the one that is kept", () => {
    expect(texts(draw(cell({ tested: 3, dots: [dot("a", 0.02)], group: group(0.02, 0.002) }), { shown: linear("%", 100) }))[0]).toBe("2.00");
  });
});

describe("specimens and means", () => {
  const finding = (id: string, product: string, more: Partial<Schemas["FindingArm"]>) =>
    ({ arm: arm(id, product), name: `Hollin ${product}`, earlier: null, relative: null, provisional: null, planned: 3, measured: 0, batches: 1, prints: (more.dots ?? []).map(() => 1), group: null, ratio: null, verdict: null, dots: [], outlier: null, notes: [], per_spool: null, design_value: null, ends: [], ...more });
  const quantity = { name: "strength", label: "strength", unit: "MPa", good_side: "higher", derived: false } as Schemas["QuantityView"];
  const draw = (arms: Schemas["FindingArm"][], q = quantity) => renderToStaticMarkup(<DotInterval groups={[{ heading: "", arms }]} referenceId="r" quantity={q} selected={null} onSelect={() => undefined} />);

  it("name every specimen with its value and what is said about it", () => {
    const svg = draw([finding("r", "Everyday", { group: group(40, 2), dots: [dot("a", 40), dot("b", 41, { state: "left_out", reason: "slipped" }), dot("c", 42, { bound: "at_least" }), dot("d", 43, { state: "open" })] })]);
    expect(all(svg, "g", "aria-label")).toEqual(["specimen A, 40.0 MPa", "specimen B, 41.0 MPa, left out", "specimen C, 42.0 MPa, at least", "specimen D, 43.0 MPa, readings still to come"]);
    expect(svg).toContain('aria-label="strength by material: Hollin Everyday 40.0 MPa, n 3"');
  });
  it("stand on the scale of what is drawn beside them", () => {
    const own = [finding("r", "Everyday", { group: group(40, 2), dots: [dot("a", 40)] })];
    const beside = [finding("x", "Everyday", { group: group(12, 1), dots: [dot("b", 12)] })];
    const wide = (arms: Schemas["FindingArm"][], also: Schemas["FindingArm"][]) => renderToStaticMarkup(<DotInterval groups={[{ heading: "", arms }]} also={also} referenceId="r" quantity={quantity} selected={null} onSelect={() => undefined} />);
    const ticksOf = (svg: string) => texts(svg).map(Number).filter((n) => Number.isFinite(n));
    expect(Math.min(...ticksOf(wide(own, [])))).toBeGreaterThan(30);
    expect(Math.min(...ticksOf(wide(own, beside)))).toBeLessThan(15);
    expect(texts(wide(own, beside)).some((x) => x.includes("12.0"))).toBe(false);
  });
  it("draw the margin about the reference and count the bounds", () => {
    const verdict = { word: "better", difference: 8, ci95: [5, 11], ci90: [6, 10], margin: 4, more_specimens: null, notes: [] } as Schemas["VerdictView"];
    const svg = draw([finding("r", "Everyday", { group: group(40, 2) }), finding("x", "Plus", { group: group(48, 1, { at_least: 2 }), verdict })]);
    const shown = texts(svg);
    expect(shown).toContain("amber · n 3, 2 at least");
    expect(shown).toContain("≥ 48.0");
    // an arm that was treated says so, cut to its room and whole on hover, and how many on a line of its own
    const washed = draw([finding("r", "Everyday", { group: group(40, 2), name: "Hollin Everyday, a week in 2 % washing soda, 40 °C" })]);
    expect(texts(washed)).toContain("n 3");
    expect(washed).toContain("<title>a week in 2 % washing soda, 40 °C</title>a week in 2 % washing soda, 4…");
    // the band is twice the margin wide, the axis from 36 to 49 with its air
    const [first, second] = all(svg, "circle", "cx").map(Number).filter((x) => x > 100);
    expect(Number(all(svg, "rect", "width")[0])).toBeCloseTo((second ?? 0) - (first ?? 0), 6);
  });
  it("draw the band of ratios by their quotient", () => {
    const verdict = { word: "equivalent", difference: 0.01, ci95: null, ci90: null, margin: Math.log(1.25), more_specimens: null, notes: [] } as Schemas["VerdictView"];
    const svg = draw([finding("r", "Everyday", { group: group(0.4, null) }), finding("x", "Plus", { group: group(0.5, null), verdict })], { ...quantity, label: "layer ratio", unit: "1", derived: true });
    // from 0.32 to 0.5: its upper end is at the other mean
    const [reference, other] = all(svg, "circle", "cx").map(Number).filter((x) => x > 100);
    const [left, wide] = [Number(all(svg, "rect", "x")[0]), Number(all(svg, "rect", "width")[0])];
    expect(left + wide).toBeCloseTo(other ?? 0, 6);
    expect(((reference ?? 0) - left) / wide).toBeCloseTo(0.08 / 0.18, 6);
    expect(texts(svg)).toContain("band: × 1.25 is the smallest difference that matters");
  });
  it("say how far each is from the reference, in percent and as a factor, or in the unit where that has no meaning", () => {
    const verdict = { word: "better", difference: 8, ci95: [5, 11], ci90: [6, 10], margin: 4, more_specimens: null, notes: [] } as Schemas["VerdictView"];
    const reference = finding("r", "Everyday", { group: group(40, 2) });
    const told = (more: Partial<Schemas["FindingArm"]>) => texts(draw([reference, finding("x", "Plus", { group: group(48, 1), verdict, ...more })]));
    expect(told({ relative: { factor: 1.2, ci95: [1.12, 1.28] } })).toEqual(expect.arrayContaining(["+20 %", "12 … 28 · × 1.20", "better", "against Hollin Everyday"]));
    expect(told({ relative: { factor: 0.955, ci95: null } })).toEqual(expect.arrayContaining(["−4.5 %", "× 0.95"]));
    expect(told({})).toEqual(expect.arrayContaining(["+8.0", "5.0 … 11.0"]));
    expect(told({ provisional: { difference: 8, ci95: [-2, 18], relative: { factor: 1.2, ci95: [0.95, 1.5] } } })).toEqual(expect.arrayContaining(["+20 %", "−5.0 … 50 · × 1.20", "provisional"]));
    expect(told({ relative: { factor: 1.2, ci95: [1.12, 1.28] }, group: group(48, 1, { at_least: 1 }) })).toContain("≥ +20 %");
  });
  it("make another arm the reference by touch and by key, the reference itself not", () => {
    const svg = renderToStaticMarkup(<DotInterval groups={[{ heading: "PLA", arms: [finding("r", "Everyday", { group: group(40, 2) }), finding("x", "Plus", { group: group(48, 1) })] }]} referenceId="r" quantity={quantity} selected={null} onSelect={() => undefined} onReference={() => undefined} />);
    expect(all(svg, "g", "aria-label")).toEqual(["Hollin Plus: compare the others with it"]);
    expect(texts(svg)).toContain("PLA");
  });
  it("show ratios bare and strains in per cent", () => {
    expect(texts(draw([finding("r", "E", { group: group(0.43, 0.02) })], { ...quantity, label: "layer ratio", unit: "1", derived: true })).at(-1)).toBe("layer ratio");
    expect(texts(draw([finding("r", "E", { group: group(0.02, 0.002) })], { ...quantity, label: "strain at break", unit: "1" })).at(-1)).toBe("strain at break, %");
  });
});

describe("a ranking", () => {
  const ranked = (id: string, rank: number | null, more: Partial<Schemas["RankedView"]> = {}): Schemas["RankedView"] =>
    ({ arm_id: id, rank, score_low: 0.5, score_high: 0.5, score_ci90: [0.4, 0.6], coverage: 1, rank_probabilities: [0.7, 0.3, 0], usefulness: {}, requirements: {}, estimates: {}, bounds: {}, notes: [], ...more });
  const draw = (rows: Schemas["RankedView"][]) =>
    renderToStaticMarkup(<RankFigure ranking={{ ranked: rows } as Schemas["Ranking"]} purpose={{ arms: [arm("a", "Everyday"), arm("b", "Plus"), arm("c", "Outdoor")] } as Schemas["PurposeView"]} />);

  it("shares a rank with an equals sign and gives every probability in per cent", () => {
    const shown = texts(draw([ranked("a", 1), ranked("b", 1, { rank_probabilities: [0.3, 0.69, 0.004] }), ranked("c", 3, { rank_probabilities: [0, 0.01, 0.99] })]));
    expect(shown.filter((t) => t === "=")).toHaveLength(2);
    expect(shown.filter((t) => /^(70|30|69|1|99)$/.test(t)).length).toBeGreaterThanOrEqual(5);
    expect(shown.filter((t) => t === "0")).toHaveLength(1); // the axis: what hardly ever happens is left blank
  });
  it("says what is ruled out, undecided, met or untested", () => {
    const svg = draw([ranked("a", 1, { requirements: { k: "pass" } }), ranked("b", 2, { requirements: { k: "undecided" }, coverage: 0.5, score_low: 0.3, score_high: 0.8 }), ranked("c", null, { requirements: { k: "fail" } })]);
    const shown = texts(svg);
    expect(shown).toContain("meets the requirement");
    expect(shown).toContain("requirement undecided · 50 % tested");
    expect(shown).toContain("misses a requirement");
    expect(shown).toContain("0.30 … 0.80");
    expect(svg).toContain('aria-label="Ranking: Hollin Everyday: rank 1; Hollin Plus: rank 2; Hollin Outdoor: ruled out"');
  });
});

describe("a pull", () => {
  const curve: CurveData = {
    id: "c", x_label: "strain", x_unit: "%", y_label: "stress", y_unit: "MPa", marks: { peak: [0.02, 40], break: [0.03, 38], yield: [0.018, 36] }, points: 4, xy: Float64Array.from([0, 0, 1, 20, 2, 40, 3, 38]),
  };
  it("marks strength, break and yield and can be dragged where somebody may", () => {
    const svg = renderToStaticMarkup(<PullCurve curve={curve} range={[0.05, 0.25]} onRange={() => undefined} width={620} height={280} />);
    expect(all(svg, "g", "aria-label")).toEqual(["lower end of the strain range", "upper end of the strain range"]);
    expect(svg).toContain("strain range of the modulus 0.050 … 0.250 % strain");
    expect(svg.replace(/<[^>]*>/g, " ")).toMatch(/○\s+strength.*×\s+break.*\|\s+yield/s);
    const peak = Number(/<circle cx="([\d.]+)" cy="[\d.]+" r="4.5"/.exec(svg)?.[1]);
    expect(peak).toBeCloseTo(58 + (2 / (3 * 1.03)) * (620 - 12 - 58), 1);
  });
  it("has no handles where the range is only shown", () => {
    expect(renderToStaticMarkup(<PullCurve curve={curve} range={[0.05, 0.25]} />)).not.toContain("slider");
    expect(renderToStaticMarkup(<PullCurve curve={curve} range={null} />)).not.toContain("strain range");
  });
});

describe("a strand", () => {
  it("tells what lies outside the tolerance and what is asked about", () => {
    const svg = renderToStaticMarkup(<DiameterStrip values={[1.75, 1.81, 17.5, 1.7]} nominal={1.75} tolerance={0.05} doubtful={[3]} mean={1.753} />);
    expect(all(svg, "rect", "fill")).toEqual(["var(--raised)", "var(--worse)"]);
    expect(all(svg, "circle", "fill")).toEqual(["var(--ink)", "none", "var(--ink)"]);
    expect(svg).toContain("4 readings, 1.750, 1.810, 17.500, 1.700 mm");
    expect(renderToStaticMarkup(<DiameterStrip values={[]} nominal={1.75} tolerance={0.05} />)).toContain("no reading yet");
  });
});

describe("calibrations", () => {
  const day = 86_400_000;
  const now = Date.parse("2026-06-15T10:00:00Z");
  const calibration = (id: string, from: number, more: Partial<Schemas["CalibrationView"]> = {}) =>
    ({ id, channel: "force", factor: 1.02, valid_from: new Date(now + from * day).toISOString(), valid_to: null, due_at: null, note: "", retracted_at: null, revision: 1, ...more });
  const draw = (of: Schemas["CalibrationView"][]) => renderToStaticMarkup(<CalibrationStrip calibrations={of} now={now} chosen="b" onChoose={() => undefined} />);

  it("stand as bars by channel; what was taken back is not drawn, what is due is filled", () => {
    const svg = draw([calibration("a", -90, { due_at: new Date(now - day).toISOString() }), calibration("b", -60, { channel: "travel", due_at: new Date(now + 30 * day).toISOString() }), calibration("c", -30, { retracted_at: "x" })]);
    expect(all(svg, "rect", "stroke")).toEqual(["var(--ink)", "var(--accent)"]);
    expect(texts(svg)).toEqual(["force", "× 1.0200", "travel", "× 1.0200", "today", expect.any(String)]);
    expect(all(svg, "path", "fill")).toEqual(["var(--caution)", "none"]);
    const [first, second] = all(svg, "rect", "x").map(Number);
    expect(first).toBeLessThan(second ?? 0);
  });
});
