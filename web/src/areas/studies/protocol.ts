import type { Schemas } from "../../api/client";
import { readNumber } from "../../ui/number";

type Setting = Schemas["ProtocolSetting"];

/** What is set otherwise than delivered, as typed: by method, then by setting. */
export type Typed = Readonly<Record<string, Readonly<Record<string, string>>>>;

const HOUR = 3600;
const DAY = 24 * HOUR;

/** The unit that a setting is typed in, and how many base units it is: long times in minutes, hours or days. */
export function typedUnit(setting: Setting): { unit: string; factor: number } {
  if (setting.dimension !== "time") return { unit: setting.base === "1" ? "" : setting.base, factor: 1 };
  const times = [setting.default].flat().map(Number);
  const longest = Math.max(...times);
  if (longest > 7 * DAY) return { unit: "days", factor: DAY };
  if (longest >= HOUR && Math.min(...times) < HOUR / 10) return { unit: "min", factor: HOUR / 60 };
  return longest >= HOUR ? { unit: "h", factor: HOUR } : { unit: "s", factor: 1 };
}

/** A setting as it is delivered, as one would type it. */
export function delivered(setting: Setting): string {
  if (setting.default === null) return "not recorded";
  if (setting.kind === "words" || setting.kind === "choice") return [setting.default].flat().join(" ");
  const { factor } = typedUnit(setting);
  return [setting.default].flat().map(Number).map((v) => String(Number((v / factor).toPrecision(6)))).join("  ");
}

/** What was typed, in base units; null where nothing was, undefined where it is no such setting. */
export function readSetting(setting: Setting, text: string): number | string | number[] | string[] | null | undefined {
  if (!text.trim()) return null;
  if (setting.kind === "choice") return text in setting.choices ? text : undefined;
  if (setting.kind === "words") return text.trim().split(/\s+/);
  const { factor } = typedUnit(setting);
  const read = text.trim().split(/[;\s]+/).map((word) => readNumber(word));
  if (!read.every((v) => typeof v === "number")) return undefined;
  const values = read.map((v) => v * factor);
  if (setting.kind === "numbers") return values.every((v, i) => v > 0 && v > (values[i - 1] ?? 0)) ? values : undefined;
  return values.length === 1 ? values[0] : undefined;
}

/** The protocol of a planned test: what is set otherwise than delivered. */
export function protocolOf(method: Pick<Schemas["MethodView"], "name" | "settings">, typed: Typed): Record<string, number | string | number[] | string[]> {
  const own = typed[method.name] ?? {};
  return Object.fromEntries(
    method.settings.flatMap((s) => {
      const value = readSetting(s, own[s.name] ?? "");
      return value === null || value === undefined ? [] : [[s.name, value] as const];
    }),
  );
}

/** In a few words what is set otherwise; empty where it is as delivered. */
export function setWords(method: Pick<Schemas["MethodView"], "name" | "settings">, typed: Typed): string {
  const own = typed[method.name] ?? {};
  return method.settings
    .flatMap((s) => {
      const text = (own[s.name] ?? "").trim();
      if (s.kind === "words") return text ? [text.split(/\s+/).map((w) => s.choices[w] ?? w).join(", ")] : [];
      if (s.kind === "choice") return text ? [s.choices[text] ?? text] : [];
      return text ? [s.kind === "yes or no" ? s.label : `${s.label} ${text} ${typedUnit(s).unit}`.trim()] : [];
    })
    .join(" · ");
}
