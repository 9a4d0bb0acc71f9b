import type { Schemas } from "../../api/client";
import { plain } from "../../ui/format";
import css from "./bench.module.css";
import { DroppedCurveView } from "./StationParts";
import { shownUnit } from "../../ui/units";

interface BottomBarProps {
  preview: Schemas["Preview"] | null;
  offline: boolean;
  /** What the server found wrong, by field. */
  wrong: ReadonlyMap<string, string>;
  test: Schemas["TestView"];
  /** A recording that the server has read. */
  curveId: string | null;
  /** The specimen that undo would take back. */
  lastCode: string | null;
  /** All that is needed is there. */
  ready: boolean;
  /** What Enter does, where it does not accept yet. */
  next: string | null;
  dimensionsOnly: boolean;
  /** Letters say how it ended; none of them leads on without testing. */
  letters: boolean;
  onFault: () => void;
  /** On with the entry, as Enter goes. */
  onGo: () => void;
  onAccept: () => void;
}

/** The computed result before it is accepted, what looks implausible, and the two decisions, far apart. */
export function BottomBar({ preview, offline, wrong, test, curveId, lastCode, ready, next, dimensionsOnly, letters, onFault, onGo, onAccept }: BottomBarProps) {
  const main = preview?.reduction?.results.find((r) => r.quantity === test.main);
  const caution = preview?.checks.some((c) => c.level === "caution");
  // what wants a look comes first
  const checks = [...(preview?.checks ?? [])].filter((c) => !curveId || c.level === "caution").sort((a, b) => Number(b.level === "caution") - Number(a.level === "caution"));
  return (
    <div className={css.bottom}>
      <div>
        <button type="button" className={css.faultButton} onClick={onFault}>
          <kbd>F</kbd> Fault …
        </button>
      </div>
      <div aria-live="polite">
        <div className="soft">{main ? test.quantities.find((q) => q.name === test.main)?.label : dimensionsOnly ? "dimensions only" : test.quantities.find((q) => q.name === test.main)?.label}</div>
        {main ? (
          <div>
            <span className={css.value} data-testid="result">
              {main.bound === "at_least" ? "≥ " : main.bound === "at_most" ? "≤ " : ""}
              {plain(shownUnit(main.unit).at(main.value))}
            </span>{" "}
            <span className="soft">{shownUnit(main.unit).unit}</span>
          </div>
        ) : (
          <div className={css.value} style={{ color: "var(--line)" }}>
            –
          </div>
        )}
      </div>
      <div className={`${css.checks} ${css.middle}`}>
        {curveId && <DroppedCurveView curveId={curveId} />}
        {offline && <div style={{ color: "var(--caution)" }}>No server: entries are kept in this browser and checked when it answers.</div>}
        {[...wrong.values()].map((text) => (
          <div key={text} style={{ color: "var(--worse)" }} role="alert">
            {text}
          </div>
        ))}
        {checks.map((c) => (
          <div key={c.text} style={c.level === "caution" ? { color: "var(--caution)" } : undefined}>
            {c.level === "plausible" && <strong style={{ color: "var(--better)" }}>Plausible </strong>}
            {c.level === "caution" && <strong>Check: </strong>}
            {c.text}
          </div>
        ))}
        {!curveId && preview?.reduction?.warnings.map((w) => <div key={w}>{w}</div>)}
        {!curveId && !caution && (
          <div className="soft">
            {lastCode && (
              <>
                <kbd>U</kbd> takes {lastCode} back ·{" "}
              </>
            )}
            {letters ? "its letter says how it broke" : <><kbd>N</kbd> next without testing</>}
          </div>
        )}
      </div>
      <div className={css.goOn}>
        {/* its room is kept while it is not there: the decision stays where it is */}
        <button type="button" className={css.step} onClick={onGo} style={next === null ? { visibility: "hidden" } : undefined} title={next ?? undefined}>
          <kbd>Enter</kbd> {next ?? ""}
        </button>
        <button type="button" data-thumb data-accept className={css.accept} aria-disabled={!ready || wrong.size > 0} onClick={ready ? onAccept : onGo}>
          {next === null && <kbd>Enter</kbd>} {dimensionsOnly ? "Keep dimensions, next" : "Accept, next"}
        </button>
      </div>
    </div>
  );
}
