import { LineChart } from "echarts/charts";
import { DataZoomComponent, GridComponent, LegendComponent, MarkLineComponent, MarkPointComponent, TooltipComponent } from "echarts/components";
import { type EChartsType, init, use as install } from "echarts/core";
import { CanvasRenderer, SVGRenderer } from "echarts/renderers";
import { useEffect, useRef } from "react";

import { xLabel } from "../api/curves";
import { inkOn } from "../ui/Swatch";
import type { ShownCurve as CurveData } from "./shownCurve";

install([LineChart, GridComponent, TooltipComponent, DataZoomComponent, LegendComponent, MarkLineComponent, MarkPointComponent, CanvasRenderer, SVGRenderer]);

export interface CurveStyle {
  name: string;
  colour: string;
  /** What it belongs to, for the legend, and the mark at its end. */
  group: string;
  mark: string;
  /** Of its swatch: the real colour of the filament. */
  hex: string;
  dash: "solid" | number[];
  /** Left out: thin and pale. */
  faint: boolean;
}

interface CurvesChartProps {
  curves: CurveData[];
  styleOf: (curve: CurveData) => CurveStyle;
  /** Ids to be drawn strongly; the others step back. Empty: all alike. */
  strong: ReadonlySet<string>;
  onPick?: (id: string) => void;
  height?: number;
  label: string;
  /** Changes when the colour scheme does, so that colours are read again. */
  scheme: string;
  /** Over the logarithm of x. */
  log?: boolean;
  /** Whether the break and the range of the modulus are drawn too; of few curves only. */
  detailed?: boolean;
}

function palette() {
  const style = getComputedStyle(document.documentElement);
  // names of fonts in single quotes: they are put between double ones where a figure becomes a file
  const read = (name: string) => style.getPropertyValue(name).trim().replaceAll('"', "'");
  return { ink: read("--ink"), soft: read("--soft"), line: read("--line"), ground: read("--ground"), surface: read("--surface"), font: read("--sans"), mono: read("--mono") };
}

function optionFor(curves: CurveData[], styleOf: CurvesChartProps["styleOf"], strong: ReadonlySet<string>, large: number, log: boolean, detailed: boolean) {
  const c = palette();
  const first = curves[0];
  const groups = large > 1 ? groupsOf(curves, styleOf) : [];
  const marked = markedOf(curves, styleOf);
  const axis = {
    type: "value" as const,
    nameLocation: "middle" as const,
    nameTextStyle: { color: c.soft, fontFamily: c.font, fontSize: 13 * large },
    axisLabel: { color: c.soft, fontFamily: c.mono, fontSize: 12 * large, formatter: (v: number) => String(Number(v.toPrecision(6))).replace("-", "−") },
    min: fromZero,
    axisLine: { show: true, lineStyle: { color: c.ink } },
    splitLine: { lineStyle: { color: c.line, opacity: 0.6 } },
  };
  return {
    animation: false,
    textStyle: { fontFamily: c.font },
    backgroundColor: large > 1 ? c.ground : "transparent",
    grid: { left: 62 * large, right: 40 * large, top: 14 * large, bottom: (50 + 24 * Math.ceil(groups.length / LEGEND_ROW)) * large },
    xAxis: {
      ...axis,
      ...(log ? { type: "log" as const, min: "dataMin" as const, axisLabel: { ...axis.axisLabel, formatter: (v: number) => String(Number(v.toPrecision(2))) } } : {}),
      name: first ? `${xLabel(curves)}, ${first.x_unit}` : "",
      nameGap: 30 * large,
    },
    yAxis: { ...axis, name: first ? `${first.y_label}, ${first.y_unit}` : "", nameGap: 42 * large },
    dataZoom: [
      { type: "inside" as const, xAxisIndex: 0, filterMode: "none" as const },
      { type: "inside" as const, yAxisIndex: 0, filterMode: "none" as const, zoomOnMouseWheel: "shift" as const },
    ],
    tooltip: {
      trigger: "item" as const,
      backgroundColor: c.surface,
      borderColor: c.line,
      textStyle: { color: c.ink, fontFamily: c.font },
      formatter: (p: unknown) => (p as { seriesName: string }).seriesName,
    },
    ...legend(groups, large, c),
    series: [...groups.map((style) => legendLine(style, large)), ...curves.flatMap((curve) => partsOf(curve, styleOf(curve), large, detailed, strong.size > 0 && !strong.has(curve.id))), ...curves.map((curve) => {
      const style = styleOf(curve);
      const back = strong.size > 0 && !strong.has(curve.id);
      return {
        type: "line" as const,
        id: curve.id,
        name: style.name,
        data: curve.xy,
        dimensions: ["x", "y"],
        showSymbol: curve.single_readings ?? false,
        symbolSize: 6 * large,
        sampling: "lttb" as const,
        triggerLineEvent: true,
        emphasis: { lineStyle: { width: 3.5 * large } },
        z: back ? 1 : 2,
        ...(curve.joined === false ? { symbol: "circle" } : {}),
        lineStyle: { color: style.colour, width: curve.joined === false ? 0 : (style.faint ? 0.8 : strong.has(curve.id) ? 3 : 1.7) * large, opacity: back ? 0.18 : style.faint ? 0.5 : 0.9, type: dashOf(style, large) },
        markLine: straight(curve, style.colour, back ? 0.15 : 0.7, large),
        markPoint: marked.has(curve.id) ? markAtEnd(curve, style, large, c) : undefined,
        itemStyle: { color: style.colour },
      };
    })],
  };
}

/** So many names stand beside one another in the legend. */
const LEGEND_ROW = 3;

type Palette = ReturnType<typeof palette>;

const dashOf = (style: CurveStyle, large: number) => (style.dash === "solid" ? ("solid" as const) : style.dash.map((d) => d * large));

/** One style of each group, in the order of the curves. */
function groupsOf(curves: CurveData[], styleOf: CurvesChartProps["styleOf"]): CurveStyle[] {
  const styles = curves.map(styleOf);
  return styles.filter((s, i) => styles.findIndex((other) => other.group === s.group) === i).map((s) => ({ ...s, faint: false }));
}

/** What the lines are, below a figure that is taken along: on the page the swatches beside it say so. */
function legend(groups: readonly CurveStyle[], large: number, c: Palette) {
  if (large === 1) return {};
  return { legend: { data: groups.map((g) => g.group), bottom: 6, itemWidth: 70, itemHeight: 12, itemGap: 90, textStyle: { color: c.ink, fontFamily: c.font, fontSize: 13 * large }, selectedMode: false } };
}

/** An empty line for the legend. */
function legendLine(style: CurveStyle, large: number) {
  return { type: "line" as const, name: style.group, data: [], symbol: "none", itemStyle: { color: style.colour }, lineStyle: { color: style.colour, width: 2 * large, type: dashOf(style, large) } };
}

/** The mark of its arm where a curve ends. */
function markAtEnd(curve: CurveData, style: CurveStyle, large: number, c: Palette) {
  const last = 2 * (curve.points - 1);
  return {
    silent: true,
    symbol: "circle",
    symbolSize: 24 * large,
    symbolOffset: [8, 0],
    itemStyle: { color: style.hex, borderColor: c.ink, borderWidth: large },
    label: { show: true, position: "inside" as const, formatter: style.mark, color: inkOn(style.hex), fontFamily: c.font, fontSize: 11 * large, fontWeight: 700 as const },
    data: [{ coord: [curve.xy[last] ?? 0, curve.xy[last + 1] ?? 0] }],
  };
}

/** What belongs to a curve: readings at each load, the fitted law; in detail the part for the modulus and the break. */
function partsOf({ id, parts }: CurveData, style: CurveStyle, large: number, detailed: boolean, back: boolean) {
  const opacity = back ? 0.15 : style.faint ? 0.4 : 0.9;
  const line = (name: string, data: [number, number][], more: object) => (data.length ? [{ type: "line" as const, id: `${id} ${name}`, name: style.name, data, silent: true, showSymbol: false, z: 3, itemStyle: { color: style.colour, opacity }, ...more }] : []);
  return [
    ...line("readings", parts.readings, { showSymbol: true, symbol: "circle", symbolSize: 4.5 * large, lineStyle: { color: style.colour, width: 1.6 * large, opacity } }),
    ...line("law", parts.law, { lineStyle: { color: style.colour, width: 1.2 * large, type: "dashed", opacity } }),
    ...(detailed ? line("range", parts.range, { lineStyle: { color: style.colour, width: 7 * large, opacity: 0.35 * opacity } }) : []),
    ...(detailed && parts.end ? line("break", [parts.end], { showSymbol: true, symbol: "path://M-5 -5L5 5M-5 5L5 -5", symbolSize: 12 * large, itemStyle: { color: "transparent", borderColor: style.colour, borderWidth: 2 * large } }) : []),
  ];
}

/** The curve of each group at whose end its mark stands: the one that goes furthest. */
function markedOf(curves: CurveData[], styleOf: CurvesChartProps["styleOf"]): ReadonlySet<string> {
  const furthest = new Map<string, CurveData>();
  const end = (curve: CurveData) => curve.xy[2 * (curve.points - 1)] ?? 0;
  for (const curve of curves) {
    const { group, faint } = styleOf(curve);
    const before = furthest.get(group);
    if (!faint && curve.points > 0 && (!before || end(curve) > end(before))) furthest.set(group, curve);
  }
  return new Set([...furthest.values()].map((curve) => curve.id));
}

/** An axis begins at 0, at a little below where a recording's noise went there, or at the round figure below what is truly negative. */
function fromZero({ min, max }: { min: number; max: number }): number | null {
  return min < -0.05 * (max - min) ? null : Math.min(0, min);
}

/** Straight lines that belong to a curve, such as a fit. */
function straight(curve: CurveData, colour: string, opacity: number, large: number) {
  const lines = Object.entries(curve.marks).filter(([name, ends]) => name.startsWith("line") && ends.length === 4);
  return {
    silent: true,
    symbol: "none",
    label: { show: false },
    lineStyle: { color: colour, type: "dashed" as const, width: 1.2 * large, opacity },
    data: lines.map(([, [x0, y0, x1, y1]]) => [{ coord: [x0 ?? 0, y0 ?? 0] }, { coord: [x1 ?? 0, y1 ?? 0] }] as [{ coord: number[] }, { coord: number[] }]),
  };
}

/** Recorded curves over one another; wheel zooms, Shift + wheel zooms the other axis, a click picks. */
export default function CurvesChart({ curves, styleOf, strong, onPick, height = 330, label, scheme, log = false, detailed = false }: CurvesChartProps) {
  const host = useRef<HTMLDivElement>(null);
  const chart = useRef<EChartsType | null>(null);
  useEffect(() => {
    if (!host.current) return;
    const made = init(host.current, null, { renderer: "canvas" });
    chart.current = made;
    const observer = new ResizeObserver(() => made.resize());
    observer.observe(host.current);
    return () => {
      observer.disconnect();
      made.dispose();
      chart.current = null;
    };
  }, []);
  useEffect(() => {
    chart.current?.setOption(optionFor(curves, styleOf, strong, 1, log, detailed), { notMerge: true });
  }, [curves, styleOf, strong, scheme, log, detailed]);
  useEffect(() => {
    const made = chart.current;
    if (!made || !onPick) return;
    const pick = (event: { seriesId?: string }) => {
      if (event.seriesId) onPick(event.seriesId);
    };
    made.on("click", pick as (event: unknown) => void);
    return () => {
      if (!made.isDisposed()) made.off("click", pick);
    };
  }, [onPick]);
  return <div ref={host} style={{ height }} role="img" aria-label={label} />;
}

/** The same figure as an SVG at film size. */
export function curvesAsSvg(curves: CurveData[], styleOf: CurvesChartProps["styleOf"], detailed = false): string {
  const made = init(null, null, { renderer: "svg", ssr: true, width: 1920, height: 1080 });
  made.setOption(optionFor(curves, styleOf, new Set(), 2, curves[0]?.log_x ?? false, detailed));
  const text = made.renderToSVGString();
  made.dispose();
  return text;
}
