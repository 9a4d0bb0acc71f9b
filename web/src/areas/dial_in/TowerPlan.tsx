import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { messageOf, type Schemas } from "../../api/client";
import { proposedTowerOptions, seriesOptions } from "../../api/queries/dialIn";
import { Refusal } from "../../ui/Notes";
import { readNumber, typed } from "../../ui/number";
import { short } from "../../ui/format";
import css from "./trail.module.css";
import { useTrail } from "./useTrail";
import type { Trial } from "./words";

type SeriesTexts = Record<"setting" | "start" | "step" | "count" | "end" | "band_height" | "base_height", string>;

const USUAL: Record<string, Pick<SeriesTexts, "start" | "step" | "count">> = {
  nozzle_temperature: { start: "240", step: "-4", count: "6" },
  bed_temperature: { start: "60", step: "5", count: "5" },
  fan: { start: "0", step: "20", count: "6" },
  speed: { start: "60", step: "20", count: "5" },
  flow: { start: "92", step: "4", count: "5" },
  retraction: { start: "0.4", step: "0.4", count: "5" },
};

export const freshSeries = (setting = "nozzle_temperature"): SeriesTexts => ({ setting, ...(USUAL[setting] ?? { start: "", step: "", count: "5" }), end: "", band_height: "7", base_height: "1.4" });

/** A planned series as it would be typed. */
export const textsOf = (s: Schemas["SeriesView"]): SeriesTexts => ({ setting: s.setting, start: typed(s.start), step: typed(s.step), count: String(s.count), end: "", band_height: typed(s.band_height), base_height: typed(s.base_height) });

/** The series as typed; undefined while a figure is missing. */
export function seriesOf(t: SeriesTexts): Schemas["SeriesIn"] | undefined {
  const [start, step, count, end, band_height, base_height] = [t.start, t.step, t.count, t.end, t.band_height, t.base_height].map(readNumber);
  if (start == null || step == null || end === undefined || band_height == null) return undefined;
  const rest = { setting: t.setting, start, step, band_height, base_height: base_height ?? 0 };
  if (end !== null) return { ...rest, end };
  return count == null || count !== Math.round(count) || count < 1 || count > 100 ? undefined : { ...rest, count };
}

const FIELDS = [
  ["start", "lowest band"],
  ["step", "step"],
  ["count", "bands"],
  ["end", "or last band"],
  ["band_height", "band height, mm"],
  ["base_height", "base, mm"],
] as const;

interface SeriesFieldsProps {
  texts: SeriesTexts;
  stepped: readonly Schemas["SettingView"][];
  onChange: (texts: SeriesTexts) => void;
}

export function SeriesFields({ texts, stepped, onChange }: SeriesFieldsProps) {
  const unit = stepped.find((s) => s.name === texts.setting)?.unit ?? "";
  return (
    <>
      <NativeSelect
        label="stepped"
        size="xs"
        value={texts.setting}
        data={stepped.map((s) => ({ value: s.name, label: `${s.label}, ${s.unit}` }))}
        onChange={(e) => onChange({ ...freshSeries(e.currentTarget.value), band_height: texts.band_height, base_height: texts.base_height })}
      />
      {FIELDS.map(([name, label]) => (
        <TextInput key={name} label={["start", "step", "end"].includes(name) ? `${label}, ${unit}` : label} disabled={name === "count" && texts.end.trim() !== ""} size="xs" w={104} inputMode="decimal" value={texts[name]} onChange={(e) => onChange({ ...texts, [name]: e.currentTarget.value })} />
      ))}
    </>
  );
}

/** The bands of a series from the bed upwards, with what to be careful about or why it cannot be. */
export function SeriesLook({ series, trailId }: { series: Schemas["SeriesIn"] | undefined; trailId?: string }) {
  const look = useQuery({ ...seriesOptions(series as Schemas["SeriesIn"], trailId), enabled: series !== undefined });
  if (!series) return <p className="soft">Give the lowest band, the step and how many bands.</p>;
  if (look.isError) return <Refusal text={messageOf(look.error)} />;
  return (
    <div>
      {look.data && (
        <p style={{ margin: "0.3rem 0" }}>
          from the bed: <span className="figure">{look.data.series.values.map(short).join(" · ")}</span> {look.data.series.unit}, {short(series.base_height + look.data.series.count * series.band_height)} mm high
        </p>
      )}
      {look.data?.cautions.map((c) => (
        <p key={c.text} style={{ color: "var(--caution)", margin: "0.2rem 0" }}>
          {c.text}
        </p>
      ))}
    </div>
  );
}

export const towerFile = (s: Schemas["SeriesIn"], kind: "stl" | "3mf") => `/api/towers/tower.${kind}?${new URLSearchParams(Object.entries(s).map(([k, v]) => [k, String(v)])).toString()}`;

interface TowerPlanProps {
  trail: Schemas["TrailView"];
  from: Trial;
  stepped: readonly Schemas["SettingView"][];
}

/** A stepped tower planned from a trial: its bands, its solid, the trial that it becomes. */
export function TowerPlan({ trail, from, stepped }: TowerPlanProps) {
  const [open, setOpen] = useState(false);
  const [setting, setSetting] = useState("nozzle_temperature");
  const [own, setOwn] = useState<SeriesTexts | null>(null);
  const proposed = useQuery({ ...proposedTowerOptions(from.id, setting), enabled: open }).data;
  const texts = own ?? (proposed ? textsOf(proposed) : { ...freshSeries(setting), start: "", step: "" });
  const change = (t: SeriesTexts) => {
    setOwn(t.setting === setting ? t : null);
    setSetting(t.setting);
  };
  const [problem, setProblem] = useState<string | null>(null);
  const { next } = useTrail();
  const navigate = useNavigate();
  const series = seriesOf(texts);
  const plan = async () => {
    try {
      const after = await next(from, { series: series ?? null, part: "tower" });
      const last = after.trials.at(-1);
      if (last) void navigate({ to: "/dial-in/$trailId", params: { trailId: trail.id }, search: { trial: last.number }, replace: true });
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>A stepped tower from here</summary>
      {open && (
        <>
          <div className={css.fields}>
            <SeriesFields texts={texts} stepped={stepped} onChange={change} />
          </div>
          <SeriesLook series={series} trailId={trail.id} />
          <Refusal text={problem} />
          <div className={css.acts}>
            <Button size="xs" disabled={!series} onClick={() => void plan()}>
              Plan this tower
            </Button>
            {series && (
              <>
                <a href={towerFile(series, "stl")} download>
                  solid as STL
                </a>
                <a href={towerFile(series, "3mf")} download>
                  solid as 3MF
                </a>
              </>
            )}
          </div>
        </>
      )}
    </details>
  );
}
