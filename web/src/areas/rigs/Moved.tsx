import type { Schemas } from "../../api/client";
import { count, plain } from "../../ui/format";
import { Wide } from "../../ui/Wide";
import css from "./rigs.module.css";
import { shownUnit } from "../../ui/units";

/** Rows that are drawn; who looks for another one finds it in the record of its specimen. */
const SHOWN = 200;

/** What a change moved: the values that are not what they were, and of how many runs. */
export function Moved({ list }: { list: Schemas["MovedList"] }) {
  const bound = (b: Schemas["MovedView"]["old_bound"]) => (b === "at_least" ? "≥ " : b === "at_most" ? "≤ " : "");
  return (
    <section role="status" className={css.moved}>
      <strong>{list.moved.length ? `${count(list.moved.length, "value")} of ${count(list.runs, "run")} moved` : "Kept; no result moved"}</strong>
      {list.moved.length > 0 && (
        <div className={css.movedList} tabIndex={0} role="group" aria-label="What moved">
          <Wide label="What moved">
            <table className="plain">
              <thead>
                <tr>
                  <th>of</th>
                  <th>result</th>
                  <th className="num">was</th>
                  <th className="num">is</th>
                </tr>
              </thead>
              <tbody>
                {list.moved.slice(0, SHOWN).map((m) => {
                  const { unit, at } = shownUnit(m.unit);
                  return (
                    <tr key={m.code + m.quantity}>
                      <td className="figure">{m.code}</td>
                      <td>{m.label}</td>
                      <td className="num">{m.old === null ? "–" : bound(m.old_bound) + plain(at(m.old))}</td>
                      <td className="num">
                        {m.new === null ? "–" : bound(m.new_bound) + plain(at(m.new))} <span className="soft">{unit}</span>
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          </Wide>
          {list.moved.length > SHOWN && <p className="soft">and {list.moved.length - SHOWN} more: each stands in the record of its specimen</p>}
        </div>
      )}
    </section>
  );
}
