import { SegmentedControl } from "@mantine/core";
import { useEffect, useRef } from "react";

import { pictureOf } from "../../api/queries/dialIn";
import { ArmSwatch } from "../../ui/Swatch";
import css from "./grading.module.css";
import type { Print } from "./grading";
import { movedTo } from "./ordering";
import { GradingHead, type LaidProps, LeaveOpen, Notice } from "./GradingParts";
import { PrintPhotos } from "./PrintPhotos";
import { type Ordering, useOrdering } from "./useOrdering";

/** Putting prints in order against each other, one trait at a time: laid by hand, or two compared at a time. */
export function OrderingTable({ view, person, rig, blind, onBlind }: LaidProps) {
  const o = useOrdering(view, person, rig);
  const root = useRef<HTMLDivElement>(null);
  const pairs = !o.kept && o.draft.way === "pairs" && o.pairing.next !== null;
  const at = o.order.flat().indexOf(o.here);
  useEffect(() => {
    root.current?.querySelector<HTMLElement>('[data-here="true"]')?.focus();
  }, [o.here, at, pairs, o.trait.name, o.pairing.left]);
  const enter = () => (o.kept ? (o.last ? void o.close() : o.nextTrait()) : o.keep());
  const keys = (e: React.KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey || (e.target as HTMLElement).matches("input")) return;
    const by = e.key === "ArrowRight" || e.key === "ArrowDown" ? 1 : e.key === "ArrowLeft" || e.key === "ArrowUp" ? -1 : 0;
    if (e.key.toLowerCase() === "u") void o.undo();
    else if (e.key === "Enter" && !pairs) enter();
    else if (pairs && by) o.answer(by > 0 ? "right" : "left");
    else if (pairs && e.key === "=") o.answer("neither");
    else if (by && e.shiftKey) o.shift(by);
    else if (by) o.go(by);
    else if (e.key === "=") o.join();
    else return;
    e.preventDefault();
  };
  return (
    <div className="page" ref={root} onKeyDown={keys}>
      <GradingHead view={view} person={person} blind={blind} onBlind={onBlind} title={`In order: ${o.trait.label}`} trait={o.trait.name} onTrait={o.choose} stands={(name) => (o.done(name) > 0 ? "kept" : "open")} />
      <div className={css.ends}>
        <span>
          <strong>first</strong> {o.trait.better ? "the best" : "the most"}: {o.trait.steps.at(-1)}
        </span>
        {!o.kept && <SegmentedControl size="sm" value={o.draft.way} onChange={(v) => o.turn(v === "pairs" ? "pairs" : "hand")} data={[{ value: "hand", label: "laid by hand" }, { value: "pairs", label: "by pairs" }]} aria-label="How the order is found" />}
        <span style={{ textAlign: "right" }}>
          <strong>last</strong> {o.trait.steps[0]}
        </span>
      </div>
      {o.missing > 0 && <p className={css.notice}>{o.missing === 1 ? "One print was" : `${String(o.missing)} prints were`} printed since: take the order back with U, and put all in order.</p>}
      {pairs ? <Pair o={o} /> : <Row o={o} all={view.prints} />}
      <Notice text={o.notice} />
      <div className={css.foot}>
        <span className="soft">
          {pairs ? (
            <>
              <kbd>←</kbd> <kbd>→</kbd> the better one · <kbd>=</kbd> no difference · <kbd>U</kbd> takes the last answer back
            </>
          ) : o.kept ? (
            <>
              <kbd>U</kbd> takes your order back
            </>
          ) : (
            <>
              <kbd>←</kbd> <kbd>→</kbd> another print · <kbd>Shift</kbd> <kbd>←</kbd> <kbd>→</kbd> moves it, or drag it · <kbd>=</kbd> no difference to the one before
            </>
          )}
        </span>
        {o.kept && o.last && <LeaveOpen view={view} />}
        {!pairs && (
          <button type="button" data-thumb className={css.go} onClick={enter}>
            <kbd>Enter</kbd> {o.kept ? (o.last ? "Close it for everybody" : "Next trait") : "Keep this order"}
          </button>
        )}
      </div>
    </div>
  );
}

/** Two prints side by side, and the question. */
function Pair({ o }: { o: Ordering }) {
  const [left, right] = (o.pairing.next ?? []).map((id) => o.printOf(id));
  if (!left || !right) return null;
  const done = o.draft.answers.length;
  return (
    <section aria-label={`${left.code} or ${right.code}`} data-here tabIndex={-1} className={css.asked}>
      <p role="status" className={css.ask}>
        Which shows {o.trait.better ? "the better" : "more"} {o.trait.label}?{" "}
        <span className="soft">
          {done} {done === 1 ? "comparison" : "comparisons"} made, {o.pairing.left} at most to come
        </span>
      </p>
      <div className={css.pair}>
        <Side print={left} onClick={() => o.answer("left")} sign="←" />
        <button type="button" className={css.neither} onClick={() => o.answer("neither")}>
          <kbd>=</kbd>
          no difference
        </button>
        <Side print={right} onClick={() => o.answer("right")} sign="→" />
      </div>
    </section>
  );
}

function Side({ print, sign, onClick }: { print: Print; sign: string; onClick: () => void }) {
  const photo = print.photos.at(-1);
  return (
    <button type="button" className={css.side} onClick={onClick}>
      {photo ? <img src={pictureOf(photo.id)} alt={`photograph of ${print.code}`} /> : <span className="soft">no photograph</span>}
      <span className={css.code}>
        <kbd>{sign}</kbd> {print.code}
      </span>
      <Material print={print} />
    </button>
  );
}

function Material({ print }: { print: Print }) {
  if (!print.arm) return null;
  return (
    <span className={css.material}>
      <ArmSwatch arm={print.arm} size={18} /> {print.arm.material.product}
    </span>
  );
}

/** The prints in their order, those of one place together; each can be dragged by its grip. */
function Row({ o, all }: { o: Ordering; all: readonly Print[] }) {
  const drag = (id: string) => (e: React.PointerEvent) => {
    if (e.buttons !== 1 || o.kept) return;
    const over = document.elementFromPoint(e.clientX, e.clientY)?.closest<HTMLElement>("[data-print]")?.dataset.print;
    if (!over || over === id) return;
    o.lay(movedTo(o.order, id, o.order.findIndex((g) => g.includes(over))), id);
  };
  return (
    <div className={css.withPhotos}>
      <ol className={css.row} aria-label="The order, from the first">
        {o.order.map((group) => (
          <li key={group[0]} className={css.place} data-together={group.length > 1}>
            {group.map((id) => {
              const print = o.printOf(id);
              if (!print) return null;
              const place = o.places.get(id) ?? 0;
              return (
                <div key={id} className={css.laid} data-print={id}>
                  <button type="button" className={css.print} data-here={id === o.here} tabIndex={id === o.here ? 0 : -1} onClick={() => o.choosePrint(id)}>
                    <span className={css.grade}>
                      <span className="visually-hidden">place </span>
                      {place}
                    </span>
                    <span className={css.code}>{print.code}</span>
                    <Material print={print} />
                    {print.photos.at(-1) && <img className={css.small} src={pictureOf(print.photos.at(-1)?.id ?? "", true)} alt="" />}
                  </button>
                  {!o.kept && (
                    <span
                      className={css.grip}
                      aria-hidden="true"
                      onPointerDown={(e) => {
                        e.currentTarget.setPointerCapture(e.pointerId);
                        o.choosePrint(id);
                      }}
                      onPointerMove={drag(id)}
                    >
                      <svg width="28" height="10" viewBox="0 0 28 10">
                        <path d="M2 3h24M2 7h24" stroke="currentColor" strokeWidth="1.6" />
                      </svg>
                    </span>
                  )}
                </div>
              );
            })}
          </li>
        ))}
      </ol>
      <PrintPhotos print={o.printOf(o.here)} all={all} />
    </div>
  );
}
