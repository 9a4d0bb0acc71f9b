import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";

import type { Schemas } from "../../api/client";
import { declarationsOfDialIn, differencesOptions, sheetOptions, trailOptions } from "../../api/queries/dialIn";
import { atMinute } from "../../ui/format";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { shownUnit } from "../../ui/units";
import { Wide } from "../../ui/Wide";
import css from "./sheet.module.css";
import { setWords } from "./words";

const GROUPS = { heat: "Heat", bead: "Bead", shell: "Shell", motion: "Motion", air: "Air", "hold-down": "Hold-down" } as const;

/** A settings sheet as one page, grouped by what each setting acts on; or two, and only what differs. */
export function SheetPage() {
  const { sheetId } = useParams({ from: "/dial-in/sheets/$sheetId" });
  const other = useSearch({ from: "/dial-in/sheets/$sheetId" }).with;
  const page = useQuery(sheetOptions(sheetId));
  const declared = useQuery(declarationsOfDialIn());
  if (page.isError || declared.isError) return <ErrorNote error={page.error ?? declared.error} again={() => void page.refetch()} />;
  if (page.isPending || declared.isPending) return <Waiting what="Reading the sheet …" />;
  const { sheet, material, printer_name, trail_id, trial_number } = page.data;
  return (
    <div className="page">
      <h1>{sheet.name}</h1>
      <p className="soft">
        {material ? `${material.maker} ${material.product}, ${material.colour} on ${printer_name ?? ""}` : "of no trail"} · made {atMinute(sheet.created_at)}
        {sheet.prepared_with && ` · file made with ${sheet.prepared_with}`}
        {trail_id && (
          <>
            {" · "}
            <Link to="/dial-in/$trailId" params={{ trailId: trail_id }} search={{ trial: trial_number ?? undefined }}>
              trial {trial_number}
            </Link>
          </>
        )}
      </p>
      {trail_id && <Beside sheet={sheet} trailId={trail_id} other={other} />}
      {other ? <Differences a={other} b={sheetId} /> : <Grouped page={page.data} settings={declared.data.settings} />}
    </div>
  );
}

function Beside({ sheet, trailId, other }: { sheet: Schemas["SheetView"]; trailId: string; other: string | undefined }) {
  const trail = useQuery(trailOptions(trailId));
  const navigate = useNavigate();
  const others = (trail.data?.trials ?? []).filter((t, i, all) => t.sheet_id !== sheet.id && all.findIndex((x) => x.sheet_id === t.sheet_id) === i);
  if (!others.length) return null;
  return (
    <p className={css.beside} data-no-print>
      <label htmlFor="beside">beside the sheet of</label>
      <select id="beside" value={other ?? ""} onChange={(e) => void navigate({ to: "/dial-in/sheets/$sheetId", params: { sheetId: sheet.id }, search: e.currentTarget.value ? { with: e.currentTarget.value } : {}, replace: true })}>
        <option value="">none: the whole sheet</option>
        {others.map((t) => (
          <option key={t.sheet_id} value={t.sheet_id}>
            trial {t.number}
          </option>
        ))}
      </select>
    </p>
  );
}

function Grouped({ page, settings }: { page: Schemas["SheetPage"]; settings: readonly Schemas["SettingView"][] }) {
  const { sheet, look } = page;
  return (
    <div className={css.groups}>
      {Object.entries(GROUPS).map(([group, title]) => {
        const own = settings.filter((s) => s.group === group && sheet.values[s.name]);
        if (!own.length) return null;
        return (
          <section key={group} className={css.group} aria-label={title}>
            <h2>{title}</h2>
            <dl>
              {own.map((s) => {
                const held = sheet.values[s.name];
                const stand = look.stands[s.name];
                const warned = look.warnings.filter((w) => w.name === s.name);
                return (
                  <div key={s.name} className={css.line}>
                    <dt>{s.label}</dt>
                    <dd className="figure">{setWords(held, s.unit)}</dd>
                    <dd className={css.source}>{held?.source}</dd>
                    {stand && <Stand stand={stand} unit={s.unit} value={typeof held?.value === "number" ? held.value : null} />}
                    {warned.map((w) => (
                      <dd key={w.text} className={css.warned}>
                        {w.text}
                      </dd>
                    ))}
                  </div>
                );
              })}
            </dl>
          </section>
        );
      })}
      {sheet.extras.length > 0 && (
        <section className={css.group} aria-label="Other">
          <h2>Other</h2>
          <dl>
            {sheet.extras.map((e) => (
              <div key={e.label} className={css.line}>
                <dt>{e.label}</dt>
                <dd className="figure">
                  {e.value} {e.unit}
                </dd>
              </div>
            ))}
          </dl>
        </section>
      )}
    </div>
  );
}

/** How a value stands inside the maker's window. */
function Stand({ stand, unit, value }: { stand: Schemas["StandView"]; unit: string; value: number | null }) {
  const shown = shownUnit(unit);
  const { low, high, within } = stand;
  const words = low !== null && high !== null ? `maker: ${String(shown.at(low))} to ${String(shown.at(high))} ${shown.unit}` : low !== null ? `maker: at least ${String(shown.at(low))} ${shown.unit}` : high !== null ? `maker: at most ${String(shown.at(high))} ${shown.unit}` : "";
  if (within === null || value === null) return <dd className={css.stand}>{words}</dd>;
  const at = Math.min(1.15, Math.max(-0.15, within));
  return (
    <dd className={css.stand}>
      <svg width="120" height="14" role="img" aria-label={`${words}; ${within < 0 ? "below it" : within > 1 ? "above it" : `at ${String(Math.round(within * 100))} % of it`}`}>
        <rect x="16" y="4" width="88" height="6" rx="3" fill="var(--raised)" stroke="var(--line)" />
        <path d={`M${String(16 + at * 88)} 0 v14`} stroke={within < 0 || within > 1 ? "var(--worse)" : "var(--ink)"} strokeWidth="3" />
      </svg>
      {words}
    </dd>
  );
}

function Differences({ a, b }: { a: string; b: string }) {
  const found = useQuery(differencesOptions(a, b));
  if (found.isError) return <ErrorNote error={found.error} />;
  if (found.isPending) return <Waiting what="Comparing …" />;
  const { differences } = found.data;
  if (!differences.length) return <p>Both sheets say the same.</p>;
  return (
    <Wide label="Differences"><table className="plain" style={{ maxWidth: 760 }}>
      <thead>
        <tr>
          <th>only what differs</th>
          <th>{found.data.a.name}</th>
          <th>{found.data.b.name}</th>
        </tr>
      </thead>
      <tbody>
        {differences.map((d) => (
          <tr key={d.name}>
            <td>{d.label}</td>
            <td className="figure">{setWords(d.before, d.unit)}</td>
            <td className="figure">
              <strong>{setWords(d.after, d.unit)}</strong>
            </td>
          </tr>
        ))}
      </tbody>
    </table></Wide>
  );
}
