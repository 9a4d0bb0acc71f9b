import { Button, Modal, Textarea, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams, useSearch } from "@tanstack/react-router";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { studyOptions } from "../../api/queries/studies";
import { NumberEntry } from "../../ui/NumberEntry";
import { onDay } from "../../ui/format";
import { ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { ArmSwatch, armWords, Swatch } from "../../ui/Swatch";
import { Statements } from "../../ui/Statements";
import { Wide } from "../../ui/Wide";
import { LookAgain } from "../day/LookAgain";
import { Fairness } from "./Fairness";
import { Margins } from "./Margins";
import css from "./plan.module.css";
import { Power } from "./Power";
import { ProtocolChoice } from "./ProtocolChoice";
import { ShapeChoice } from "./ShapeChoice";
import { Reason, Started } from "./Started";
import { StudyHead } from "./StudyHead";
import { keyOf } from "./useNewStudy";
import { type Planned, useCopy, usePlan } from "./usePlan";
import { AddOne } from "../../ui/AddOne";

type Study = Schemas["StudyView"];

/** What a study consists of: how far each cell has come, what is to be planned besides, its name, a copy of it. */
export function PlanPage() {
  const { studyId } = useParams({ from: "/studies/$studyId/plan" });
  const study = useQuery(studyOptions(studyId));
  if (study.isPending) return <Waiting what="Reading the plan …" />;
  // a plan that was read stays, with what is typed on it, where it cannot be read anew
  if (study.isLoadingError) return <ErrorNote error={study.error} again={() => void study.refetch()} />;
  return <Plan key={studyId} study={study.data} />;
}

function Plan({ study }: { study: Study }) {
  const plan = usePlan(study);
  const { copy } = useSearch({ from: "/studies/$studyId/plan" });
  const [copying, setCopying] = useState(copy ?? false);
  const away = study.put_away_at !== null;
  return (
    <div className="page">
      <StudyHead study={study} />
      {away && (
        <p className={css.away} role="note">
          Put away on {onDay(study.put_away_at ?? "")}: it is in no list of what is to be done. What it has is kept and found.
        </p>
      )}
      <Grid study={study} plan={plan} />
      <div className={css.keep}>
        {study.started_at !== null && plan.changed && <Reason plan={plan} />}
        <Button disabled={!plan.changed || plan.wrong} loading={plan.busy} onClick={() => void plan.extend()}>
          Plan these
        </Button>
        <Button variant="subtle" disabled={!plan.changed} onClick={plan.forget}>
          Leave it as it is
        </Button>
        <span className="soft">
          {plan.specimens ? (
            <>
              <strong className="figure">{plan.specimens}</strong> specimens more to print; what was measured stays as it is
            </>
          ) : (
            `Add ${ofMaterials(study) ? "a material, " : ""}a test, or more specimens of each. What was planned is not taken away here: a specimen that is not wanted is simply not printed.`
          )}
        </span>
      </div>
      <Refusal text={plan.problem} />
      <div className={css.below}>
        <Fairness study={study} />
        <Started study={study} plan={plan} />
      </div>
      <Margins study={study} plan={plan} />
      <Power study={study} plan={plan} />
      <div className={css.below}>
        <Name key={`${study.title} ${study.question}`} study={study} plan={plan} />
        <section className={css.part} aria-label="Copy or put away">
          <LookAgain kind="study" id={study.id} />
          <h2>The same again</h2>
          <p className="soft">A copy takes the plan along, without spools and without anything that was measured.</p>
          <Button variant="default" onClick={() => setCopying(true)}>
            Copy this study
          </Button>
          <h2>Done with it</h2>
          <p className="soft">Put away, it leaves the lists, the bench and the Day sheet. Its board, findings and rankings stay.</p>
          <Button variant="default" onClick={() => void plan.edit({ put_away: !away })}>
            {away ? "Take it up again" : "Put it away"}
          </Button>
        </section>
      </div>
      <Modal opened={copying} onClose={() => setCopying(false)} title="A study like this one" size="lg">
        <Copy study={study} />
      </Modal>
    </div>
  );
}

function Name({ study, plan }: { study: Study; plan: Planned }) {
  const [title, setTitle] = useState(study.title);
  const [question, setQuestion] = useState(study.question);
  const changed = title.trim() !== study.title || question.trim() !== study.question;
  return (
    <form
      className={css.part}
      onSubmit={(e) => {
        e.preventDefault();
        void plan.edit({ title, question });
      }}
    >
      <h2>Name and question</h2>
      <TextInput label="What is it called?" value={title} onChange={(e) => setTitle(e.currentTarget.value)} maxLength={160} required />
      <Textarea label="Which question does it answer?" value={question} onChange={(e) => setQuestion(e.currentTarget.value)} maxLength={1000} autosize minRows={2} mt="xs" />
      <Statements text={question} studyId={study.id} />
      <Button type="submit" variant="default" mt="sm" disabled={!changed || !title.trim()}>
        Save
      </Button>
    </form>
  );
}

/** Materials down, tests across; every cell with its specimens: tested, printed, planned, to be planned. */
function Grid({ study, plan }: { study: Study; plan: Planned }) {
  const { more, setMore, chosen, offered, planned, usual, wanted } = plan;
  const { add } = useSearch({ from: "/studies/$studyId/plan" });
  return (
    <Wide label="Materials and tests">
      <table className={css.grid}>
        <Tests study={study} plan={plan} />
        <tbody>
          {study.arms.map((a) => (
            <tr key={a.id}>
              <th scope="row">
                <ArmSwatch arm={a} size={26} /> {a.material.maker} {a.material.product}
                <span className="soft">
                  {" "}
                  {a.material.colour}
                  {armWords(a) && ` · ${armWords(a)}`}
                </span>
              </th>
              {study.tests.map((t) => (
                <td key={t.id}>
                  <Circles cell={cellOf(plan, t.id, a.id)} planned={t.replicates} wanted={wanted(t)} />
                </td>
              ))}
              {planned.map((c) => (
                <td key={keyOf(c)} className={css.fresh}>
                  <Circles cell={null} planned={0} wanted={usual} />
                </td>
              ))}
              <td />
            </tr>
          ))}
          {chosen.map((m) => (
            <tr key={m.id} className={css.fresh}>
              <th scope="row">
                <Swatch hex={m.hex} mark={m.mark} filled={m.filler !== null} size={26} /> {m.maker} {m.product}
                <span className="soft"> {m.colour}</span>
                <Drop label={`Leave out ${m.maker} ${m.product}, ${m.colour}`} onDrop={() => setMore({ ...more, materials: more.materials.filter((k) => k !== m.id) })} />
              </th>
              {[...study.tests.map(wanted), ...planned.map(() => usual)].map((n, i) => (
                <td key={i}>
                  <Circles cell={null} planned={0} wanted={n} />
                </td>
              ))}
              <td />
            </tr>
          ))}
          <tr>
            <td colSpan={study.tests.length + planned.length + 2}>
              {ofMaterials(study) ? <AddOne first={add === "material"} label="Another material" data={offered.map((m) => ({ value: m.id, label: `${m.maker} ${m.product}, ${m.colour}` }))} onAdd={(key) => setMore({ ...more, materials: [...more.materials, key] })} /> : <span className="soft">Another {study.studied_factor} asks for a study of its own.</span>}
            </td>
          </tr>
        </tbody>
      </table>
    </Wide>
  );
}

/** The tests across, how many of each, and another one. */
function Tests({ study, plan: { more, setMore, planned, untaken } }: { study: Study; plan: Planned }) {
  const { add } = useSearch({ from: "/studies/$studyId/plan" });
  return (
    <thead>
      <tr>
        <th scope="col">material</th>
        {study.tests.map((t) => (
          <th key={t.id} scope="col">
            {t.label}, {t.orientation}
            <span className="soft" style={{ display: "block" }}>
              {t.shape.label}
            </span>
            <NumberEntry aria-label={`Specimens of each: ${t.label}, ${t.orientation}`} size="xs" w={110} unit="of each" min={t.replicates} max={50} whole value={t.id in more.replicates ? more.replicates[t.id] : t.replicates} onChange={(v) => setMore({ ...more, replicates: { ...more.replicates, [t.id]: v } })} />
            <NumberEntry aria-label={`Spares of each: ${t.label}, ${t.orientation}`} size="xs" w={110} unit="spare" min={0} max={50} whole value={t.id in more.spares ? more.spares[t.id] : t.spares} onChange={(v) => setMore({ ...more, spares: { ...more.spares, [t.id]: v } })} />
          </th>
        ))}
        {planned.map((c) => (
          <th key={keyOf(c)} scope="col" className={css.fresh}>
            {c.method.label}, {c.orientation}
            <ShapeChoice method={c.method} orientations={[c.orientation]} shapes={more.shapes} onChange={(shapes) => setMore({ ...more, shapes })} />
            <ProtocolChoice method={c.method} typed={more.protocols} onChange={(protocols) => setMore({ ...more, protocols })} />
            <Drop label={`Leave out ${c.method.label}, ${c.orientation}`} onDrop={() => setMore({ ...more, tests: more.tests.filter((k) => k !== keyOf(c)) })} />
          </th>
        ))}
        <th scope="col">
          <AddOne first={add === "test"} label="Another test" maw={170} data={untaken.map((c) => ({ value: keyOf(c), label: `${c.method.label}, ${c.orientation}` }))} onAdd={(key) => setMore({ ...more, tests: [...more.tests, key] })} />
        </th>
      </tr>
    </thead>
  );
}

/** Whether an arm more is a material more. */
const ofMaterials = (study: Study) => study.studied_factor === "material" || study.studied_factor === "colour";

const cellOf = (plan: Planned, testId: string, armId: string) => plan.board?.columns.find((c) => c.test_id === testId)?.cells.find((c) => c.arm_id === armId) ?? null;

/** Filled: tested; grey: printed; open: planned; dashed: to be planned. */
function Circles({ cell, planned, wanted }: { cell: Schemas["CellView"] | null; planned: number; wanted: number }) {
  const [tested, printed] = [cell?.tested ?? 0, cell?.printed ?? 0];
  const per = 10;
  const more = wanted - planned;
  const words = [tested && `${String(tested)} tested`, printed > tested && `${String(printed - tested)} printed`, planned > printed && `${String(planned - printed)} planned`, more > 0 && `${String(more)} more`].filter(Boolean).join(", ");
  return (
    <svg width={per * 13} height={Math.ceil(wanted / per) * 14} role="img" aria-label={words}>
      <title>{words}</title>
      {Array.from({ length: wanted }, (_, i) => (
        <circle
          key={i}
          cx={7 + (i % per) * 13}
          cy={7 + Math.floor(i / per) * 14}
          r="4.6"
          fill={i < tested ? "var(--ink)" : i < printed ? "var(--line)" : "none"}
          stroke={i < planned ? "var(--ink)" : "var(--accent)"}
          strokeDasharray={i < planned ? undefined : "2.4 1.8"}
          strokeWidth="1.2"
        />
      ))}
    </svg>
  );
}

function Drop({ label, onDrop }: { label: string; onDrop: () => void }) {
  return (
    <button type="button" className={css.drop} aria-label={label} onClick={onDrop}>
      leave out
    </button>
  );
}

function Copy({ study }: { study: Study }) {
  const copy = useCopy(study);
  const mark = (key: string) => ({ type: "button" as const, "aria-pressed": !copy.left.has(key), className: css.choice, onClick: () => copy.toggle(key) });
  return (
    <form
      className={css.copy}
      onSubmit={(e) => {
        e.preventDefault();
        void copy.make();
      }}
    >
      <TextInput label="What is it called?" value={copy.title} onChange={(e) => copy.setTitle(e.currentTarget.value)} maxLength={160} data-autofocus />
      <h3>With these materials</h3>
      <div className={css.choices}>
        {study.arms.map((a) => (
          <button key={a.id} {...mark(a.id)}>
            <ArmSwatch arm={a} size={24} /> {a.material.maker} {a.material.product}, {a.material.colour}
            {armWords(a) && ` · ${armWords(a)}`}
          </button>
        ))}
      </div>
      <h3>And these tests</h3>
      <div className={css.choices}>
        {study.tests.map((t) => (
          <button key={t.id} {...mark(t.id)}>
            {t.label}, {t.orientation} · {t.replicates} of each
          </button>
        ))}
      </div>
      <Refusal text={copy.problem} />
      <Button type="submit" mt="md" disabled={!copy.ready}>
        Make the copy
      </Button>
    </form>
  );
}
