import { Select } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";

import { messageOf, type Schemas } from "../../api/client";
import { declarationsOfDialIn, fileDifferencesOptions, gcodeFilesOptions, gcodeOptions, stepsOptions } from "../../api/queries/dialIn";
import { amount, fixed, short } from "../../ui/format";
import { ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { Wide } from "../../ui/Wide";
import css from "./gcode.module.css";
import { LayerStrips } from "./LayerStrips";
import { freshSeries, SeriesFields, seriesOf, textsOf } from "./TowerPlan";
import { secondsWords } from "./words";
import trailCss from "./trail.module.css";

type Found = Schemas["InspectionView"];

/** One G-code file: what it does by height, how it stands to its sheet, and a setting stepped through it. */
export function GcodeFilePage() {
  const { fileId } = useParams({ from: "/dial-in/gcode/$fileId" });
  const file = useQuery(gcodeOptions(fileId));
  const [marked, setMarked] = useState<number[][]>([]);
  if (file.isError) return <ErrorNote error={file.error} again={() => void file.refetch()} />;
  if (file.isPending) return <Waiting what="Reading the inspection …" />;
  const { found, findings } = file.data;
  return (
    <div className="page">
      <h1>{file.data.name}</h1>
      <p className="soft">
        {(file.data.size / 1e6).toFixed(1)} MB, {found.lines} lines
        {file.data.trail_id && (
          <>
            {" · "}
            <Link to="/dial-in/$trailId" params={{ trailId: file.data.trail_id }} search={{ trial: file.data.trial_number ?? undefined }}>
              trial {file.data.trial_number}
            </Link>
          </>
        )}
      </p>
      <Figures found={found} density={file.data.density} />
      {(findings.length > 0 || found.caps.length > 0) && (
        <section aria-label="What stands out">
          <h2>What stands out</h2>
          <ul className={css.findings}>
            {findings.map((f) => (
              <li key={f.about + f.text}>
                {f.text}:{" "}
                <button type="button" onClick={() => setMarked(f.layers)}>
                  {layerWords(f.layers as number[][])}
                </button>
              </li>
            ))}
            {found.caps.length > 0 && <li>the outer wall is uneven from layer to layer: {found.caps.map((c) => c.text).join("; ")}</li>}
          </ul>
        </section>
      )}
      <LayerStrips columns={found.by_layer} marked={marked} />
      <Remarks found={found} />
      <Stepping fileId={fileId} height={found.height_mm} planned={file.data.series} />
      <Beside fileId={fileId} />
    </div>
  );
}

const layerWords = (ranges: number[][]) => {
  const words = ranges.slice(0, 4).map(([a, b]) => (a === b ? `layer ${String(a)}` : `layers ${String(a)} to ${String(b)}`));
  return words.join(", ") + (ranges.length > 4 ? ` and ${String(ranges.length - 4)} more` : "");
};

function Figures({ found: f, density }: { found: Found; density: number | null }) {
  const spread = (s: Found["speed"], unit: string) => (s ? `${fixed(s.low, 1)} to ${fixed(s.high, 1)} ${unit}` : "–");
  const rows: [string, string, string][] = [
    ["print time", secondsWords(f.time_s), `${secondsWords(f.preparing_s + f.first_layer_s)} to the end of the first layer, ${secondsWords(f.rest_s)} after it; heating not counted`],
    ["layers", String(f.layers), `${amount(f.height_mm, "mm", 2)} high`],
    ["filament", density === null ? `${fixed(f.filament_mm / 1000, 2)} m` : amount((f.volume_mm3 / 1000) * density, "g", 1), `${density === null ? "density not known; " : `${fixed(f.filament_mm / 1000, 2)} m, `}${fixed(f.volume_mm3 / 1000, 2)} cm³${Object.keys(f.filament_by_tool).length > 1 ? `; by tool ${Object.entries(f.filament_by_tool).map(([t, mm]) => `${t}: ${fixed(mm / 1000, 2)} m`).join(", ")}` : ""}`],
    ["outer contour", spread(f.outer_contour, "mm/s"), f.wall_scatter === null ? "no closed outline" : `layers scatter by ${fixed(f.wall_scatter * 100, 0)} %`],
    ["flow", spread(f.flow, "mm³/s"), f.flow ? `mean ${fixed(f.flow.mean, 1)}, scatter ${fixed((f.flow.scatter / (f.flow.mean || 1)) * 100, 0)} %` : ""],
    ["speed jumps", `${fixed(f.jumping_share * 100, 1)} %`, "of the time of laying, by more than a quarter"],
    ["travel", `${fixed(f.travel_mm / 1000, 2)} m`, `${fixed((f.crossing_mm / (f.travel_mm || 1)) * 100, 0)} % crosses the outer contour`],
    ["heat", f.temperatures.nozzle.length ? `${f.temperatures.nozzle.map(short).join(", ")} °C` : "–", `nozzle; bed ${f.temperatures.bed.map(short).join(", ") || "–"} °C${f.temperatures.chamber.length ? `, chamber ${f.temperatures.chamber.map(short).join(", ")} °C` : ""}`],
  ];
  return (
    <dl className={css.figures}>
      {rows.map(([name, value, more]) => (
        <div key={name}>
          <dt>{name}</dt>
          <dd>
            {value}
            <small>{more}</small>
          </dd>
        </div>
      ))}
    </dl>
  );
}

function Remarks({ found }: { found: Found }) {
  const unknown = Object.entries(found.unknown);
  if (!found.remark_count && !unknown.length) return null;
  return (
    <details>
      <summary>
        {found.remark_count ? `${String(found.remark_count)} lines could not be read` : "Commands that were kept without acting on them"}
      </summary>
      <ul>
        {found.remarks.map((r) => (
          <li key={r.line}>
            line {r.line}: {r.text}
          </li>
        ))}
      </ul>
      {unknown.length > 0 && <p className="soft">kept without acting on them: {unknown.map(([name, n]) => `${name} (${String(n)}×)`).join(", ")}</p>}
    </details>
  );
}

/** The commands of a stepped series put into this file: where, and as which bands. */
function Stepping({ fileId, height, planned }: { fileId: string; height: number; planned: Schemas["SeriesView"] | null }) {
  const [open, setOpen] = useState(planned !== null);
  const [texts, setTexts] = useState(() => (planned ? textsOf(planned) : { ...freshSeries(), band_height: short(Math.max(2, Math.floor((height - 1.4) / 6))) }));
  const declared = useQuery(declarationsOfDialIn());
  const series = seriesOf(texts);
  const plan = useQuery({ ...stepsOptions(fileId, series as Schemas["SeriesIn"]), enabled: open && series !== undefined });
  const query = series && new URLSearchParams(Object.entries(series).map(([k, v]) => [k, String(v)])).toString();
  return (
    <details style={{ marginTop: "1rem" }} open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Step a setting through this file</summary>
      {open && declared.data && (
        <>
          <div className={trailCss.fields}>
            <SeriesFields texts={texts} stepped={declared.data.stepped} onChange={setTexts} />
          </div>
          {plan.isError && <Refusal text={messageOf(plan.error)} />}
          {series && plan.data && !plan.isError && (
            <>
              {plan.data.cautions.map((c) => (
                <p key={c.text} style={{ color: "var(--caution)" }}>
                  {c.text}
                </p>
              ))}
              <Wide label="Bands"><table className="plain" style={{ maxWidth: 860 }}>
                <thead>
                  <tr>
                    <th className="num">band</th>
                    <th className="num">
                      {plan.data.series.label}, {plan.data.series.unit}
                    </th>
                    <th className="num">layers</th>
                    <th className="num">from – to, mm</th>
                    <th>put in</th>
                  </tr>
                </thead>
                <tbody>
                  {plan.data.bands.map((b) => (
                    <tr key={b.number}>
                      <td className="num">{b.number}</td>
                      <td className="num">{short(b.value)}</td>
                      <td className="num">
                        {b.first_layer}–{b.first_layer + b.layers - 1}
                      </td>
                      <td className="num">
                        {fixed(b.low, 2)} – {fixed(b.high, 2)}
                      </td>
                      <td className="figure">
                        {plan.data.insertions.filter((i) => i.band === b.number).map((i) => `${i.text} before line ${String(i.line)}`).join(", ")}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table></Wide>
              <p>
                <a href={`/api/gcode/${fileId}/stepped.gcode?${query ?? ""}`} download>
                  Download the stepped file
                </a>{" "}
                <span className="soft">all else is left byte for byte</span>
              </p>
            </>
          )}
        </>
      )}
    </details>
  );
}

/** Another file beside this one: time and filament, and where they part. */
function Beside({ fileId }: { fileId: string }) {
  const files = useQuery(gcodeFilesOptions());
  const [other, setOther] = useState<string | null>(null);
  const found = useQuery({ ...fileDifferencesOptions(fileId, other ?? ""), enabled: other !== null });
  const choices = (files.data?.items ?? []).filter((f) => f.id !== fileId);
  if (!choices.length) return null;
  const d = found.data;
  return (
    <section aria-label="Beside another file" style={{ marginTop: "1rem" }}>
      <Select size="xs" maw={360} label="Beside another file" clearable value={other} onChange={setOther} data={choices.map((f) => ({ value: f.id, label: f.name }))} />
      {found.isError && <Refusal text={messageOf(found.error)} />}
      {d && (
        <>
          <p>
            {secondsWords(d.a.time_s)} here, {secondsWords(d.b.time_s)} there; {d.mass_share === null ? "" : `${fixed(d.mass_share * 100, 1)} % of the filament there; `}
            {d.a.layers} and {d.b.layers} layers.
          </p>
          <Parting rows={d.rows} />
        </>
      )}
    </section>
  );
}

function Parting({ rows }: { rows: Schemas["HeightDifference"][] }) {
  const apart = rows.filter((r) => r.seconds[0] === null || r.seconds[1] === null || Math.abs((r.seconds[0] ?? 0) - (r.seconds[1] ?? 0)) > 0.05 * Math.max(r.seconds[0] ?? 0, r.seconds[1] ?? 0));
  if (!apart.length) return <p className="soft">No layer takes another time by more than 5 %.</p>;
  const words = (v: number | null | undefined) => (v == null ? "none" : fixed(v, 1));
  return (
    <Wide label="Heights that differ"><table className="plain" style={{ maxWidth: 640 }}>
      <thead>
        <tr>
          <th className="num">height, mm</th>
          <th className="num">time here, s</th>
          <th className="num">there, s</th>
          <th className="num">speed here, mm/s</th>
          <th className="num">there, mm/s</th>
        </tr>
      </thead>
      <tbody>
        {apart.slice(0, 40).map((r) => (
          <tr key={r.z}>
            <td className="num">{fixed(r.z, 2)}</td>
            <td className="num">{words(r.seconds[0])}</td>
            <td className="num">{words(r.seconds[1])}</td>
            <td className="num">{words(r.speed[0])}</td>
            <td className="num">{words(r.speed[1])}</td>
          </tr>
        ))}
        {apart.length > 40 && (
          <tr>
            <td colSpan={5} className="soft">
              and {apart.length - 40} more layers
            </td>
          </tr>
        )}
      </tbody>
    </table></Wide>
  );
}
