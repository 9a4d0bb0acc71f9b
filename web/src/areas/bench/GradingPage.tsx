import { useLocalStorage } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useEffect, useRef } from "react";

import { gradingOptions } from "../../api/queries/bench";
import { usePerson } from "../../api/person";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import { ArmSwatch } from "../../ui/Swatch";
import css from "./grading.module.css";
import { gradeBy } from "./grading";
import { GradingHead, type LaidProps, LeaveOpen, Notice } from "./GradingParts";
import { OrderingTable } from "./OrderingTable";
import { PrintPhotos } from "./PrintPhotos";
import { type Grading, useGrading } from "./useGrading";

/** Grading: the prints laid out in random order, one trait at a time, each step written out; 0 to 4 by key. */
export function GradingPage() {
  const { testId } = useParams({ from: "/bench/grading/$testId" });
  const [blind, setBlind] = useLocalStorage({ key: "assayer.blind.grading", defaultValue: true, getInitialValueInEffect: false });
  const found = useQuery(gradingOptions(testId, blind));
  const person = usePerson();
  if (found.isError && !found.data) return <ErrorNote error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Waiting what="Laying out the prints …" />;
  if (!person) return <Empty title="Who grades?">Several people grade, and the median counts: say who you are above, at the right.</Empty>;
  const rig = found.data.rigs[0];
  if (!rig) {
    return (
      <Empty title="Where is it looked at?">
        Grades belong to a light and a place, as readings to a rig.{" "}
        <Link to="/rigs/new" search={{ method: "graded" }}>
          Add it as a rig
        </Link>
        , such as “north window, at arm’s length”.
      </Empty>
    );
  }
  if (!found.data.prints.length) return <Empty title="Nothing is printed yet">The prints are graded once it was said that they were printed.</Empty>;
  const Laid = found.data.ordered ? OrderingTable : Table;
  return <Laid key={`${testId}-${person}`} view={found.data} person={person} rig={rig} blind={blind} onBlind={setBlind} />;
}

function Table({ view, person, rig, blind, onBlind }: LaidProps) {
  const g = useGrading(view, person, rig);
  const { trait, here } = g;
  const root = useRef<HTMLDivElement>(null);
  useEffect(() => {
    root.current?.querySelector<HTMLElement>('[data-here="true"]')?.focus();
  }, [here, trait.name]);
  const keys = (e: React.KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    if (/^[0-4]$/.test(e.key)) g.grade(Number(e.key));
    else if (e.key === "ArrowRight" || e.key === "ArrowDown") g.move(1);
    else if (e.key === "ArrowLeft" || e.key === "ArrowUp") g.move(-1);
    else if (e.key.toLowerCase() === "u") void g.undo();
    else if (e.key === "Enter") g.nextTrait();
    else return;
    e.preventDefault();
  };
  return (
    <div className="page" ref={root} onKeyDown={keys}>
      <GradingHead view={view} person={person} blind={blind} onBlind={onBlind} title={`Grading: ${trait.label}`} trait={trait.name} onTrait={g.choose} stands={(name) => `${String(g.done(name))}/${String(g.prints.length)}`} />
      <ol className={css.steps} aria-label={`Steps of ${trait.label}`}>
        {trait.steps.map((words, n) => (
          <li key={words}>
            <kbd>{n}</kbd>
            <span>{words}</span>
          </li>
        ))}
      </ol>
      {trait.caution && <p style={{ color: "var(--caution)", maxWidth: 820 }}>{trait.caution}</p>}
      <div className={css.withPhotos}>
        <Prints g={g} person={person} />
        <PrintPhotos print={g.prints[here]} all={g.prints} />
      </div>
      <Notice text={g.notice} />
      <div className={css.foot}>
        <span className="soft">
          <kbd>0</kbd>–<kbd>4</kbd> grades and goes on · <kbd>←</kbd> <kbd>→</kbd> another print · <kbd>U</kbd> takes the last one back
        </span>
        {g.last && g.done(trait.name) === g.prints.length && <LeaveOpen view={view} />}
        <button type="button" data-thumb className={css.go} aria-disabled={g.done(trait.name) < g.prints.length} onClick={g.nextTrait}>
          <kbd>Enter</kbd> {g.last ? "Close it for everybody" : "Next trait"}
        </button>
      </div>
    </div>
  );
}

/** The prints as they lie before one; what others gave shows once one's own is given. */
function Prints({ g, person }: { g: Grading; person: string }) {
  return (
    <div className={css.prints}>
      {g.prints.map((p, i) => {
        const own = gradeBy(p, g.trait.name, person);
        const others = p.grades.filter((x) => x.trait === g.trait.name && x.grader !== person);
        return (
          <button
            key={p.specimen_id}
            type="button"
            className={css.print}
            data-here={i === g.here}
            data-graded={own !== null}
            onClick={() => g.go(i)}
            tabIndex={i === g.here ? 0 : -1}
          >
            <span className={css.code}>{p.code}</span>
            {p.arm && (
              <span className="soft" style={{ display: "flex", gap: 6, alignItems: "center", justifyContent: "center", fontSize: "0.8rem" }}>
                <ArmSwatch arm={p.arm} size={18} /> {p.arm.material.product}
              </span>
            )}
            <span className={css.grade}>
              <span className="visually-hidden">{own === null ? "not graded" : "graded"}</span> {own ?? <span aria-hidden>–</span>}
            </span>
            <span className={css.others}>{own !== null && others.length > 0 ? `others ${others.map((x) => String(x.grade)).join(", ")}` : others.length > 0 ? `${String(others.length)} graded it` : " "}</span>
          </button>
        );
      })}
    </div>
  );
}
