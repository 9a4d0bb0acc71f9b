import { Button } from "@mantine/core";

import type { Schemas } from "../../api/client";
import { signed } from "../../ui/format";
import css from "./trail.module.css";
import { changeWords, chip } from "./words";

interface EffectsProps {
  trail: Schemas["TrailView"];
  traits: readonly Schemas["TraitView"][];
  settings: readonly Schemas["SettingView"][];
  onMissing: (untold: Schemas["UntoldView"]) => void;
}

/** What each change did, only where it stood alone; and which print would tell the others apart. */
export function Effects({ trail, traits, settings, onMissing }: EffectsProps) {
  const shown = traits.filter((t) => trail.effects.some((e) => e.by_trait[t.name] !== undefined));
  return (
    <section className={css.effects} aria-label="What each change did">
      <h2>
        What each change did <span className={css.hint}>only where it stood alone; “seen once” rests on a single grade, or on a spool that is not recorded</span>
      </h2>
      {trail.effects.length > 0 ? (
        <div className={css.scroll} tabIndex={0} role="group" aria-label="Effects of changes">
          <table className={`plain ${css.table ?? ""}`}>
            <thead>
              <tr>
                <th>change</th>
                {shown.map((t) => (
                  <th key={t.name} className="num">
                    {t.short}
                  </th>
                ))}
                <th className="num">seen</th>
                <th>trials</th>
              </tr>
            </thead>
            <tbody>
              {trail.effects.map((e) => (
                <tr key={`${e.change.name}${JSON.stringify(e.change.before?.value)}${JSON.stringify(e.change.after?.value)}`}>
                  <td className={css.change}>
                    {changeWords(e.change)}
                    {e.finishes !== 0 && <span className={e.finishes < 0 ? css.down : css.up}> {e.finishes < 0 ? "did not finish" : "finished"}</span>}
                  </td>
                  {shown.map((t) => {
                    const value = e.by_trait[t.name];
                    return (
                      <td key={t.name} className="num">
                        {value === undefined ? "" : <span className={!e.credited.includes(t.name) ? "soft" : t.better && value > 0 ? css.up : t.better && value < 0 ? css.down : undefined}>{signed(value, value % 1 ? 1 : 0)}</span>}
                        {value !== undefined && !e.credited.includes(t.name) && <span className="soft"> seen once</span>}
                      </td>
                    );
                  })}
                  <td className="num">{e.seen}×</td>
                  <td className={css.pairs}>{e.pairs.map(([a, b]) => `${String(a)} → ${String(b)}`).join(", ")}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : (
        <p className="soft">Nothing yet: two prints that differ in one thing tell what it does.</p>
      )}
      {trail.untold.map((u) => (
        <p key={u.number} className={css.untold}>
          Trial {u.number} changed {u.changes.length} things at once: {u.untold.map((d) => d.label).join(" and ")} {u.untold.length > 1 ? "are" : "is"} not told apart.{" "}
          {settings.some((s) => s.name === u.missing.name) ? (
            <Button size="compact-sm" variant="default" onClick={() => onMissing(u)}>
              Plan {u.start} with {chip(u.missing)} alone
            </Button>
          ) : (
            `Trial ${String(u.start)} again with ${chip(u.missing)} alone would tell.`
          )}
        </p>
      ))}
    </section>
  );
}
