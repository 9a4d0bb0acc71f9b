import { Button, Select, Textarea, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";

import { materialsOptions } from "../../api/queries/stock";
import { studiesOptions } from "../../api/queries/studies";
import { NumberEntry } from "../../ui/NumberEntry";
import { Refusal } from "../../ui/Notes";
import { composition, Swatch } from "../../ui/Swatch";
import { Statements } from "../../ui/Statements";
import { Restored } from "../../ui/useDraftForm";
import { ArmSpool } from "./ArmSpool";
import { NewMaterialForm } from "./NewMaterialForm";
import css from "./new.module.css";
import { Wide } from "../../ui/Wide";
import { Studied, Sweep } from "./Sweep";
import { crossable, type PlannedArm } from "./kinds";
import { ProtocolChoice } from "./ProtocolChoice";
import { ShapeChoice } from "./ShapeChoice";
import { type Choice, countOf, keyOf, type NewStudy, shapeOf, useNewStudy } from "./useNewStudy";
import { Picked, Treatments } from "./Varied";

/** A question, the materials asked, the tests: drawn as the board they will become. */
export function NewStudyPage() {
  const study = useNewStudy();
  const { form, problem } = study;
  return (
    <div className={`page ${css.page}`}>
      <div>
        <h1>New study</h1>
        <Restored draft={study.draft} />
        <div className={css.words}>
          <TextInput label="What is it called?" {...form.getInputProps("title")} maxLength={160} error={problem?.field === "title" ? problem.text : null} />
          <Textarea label="Which question does it answer?" {...form.getInputProps("question")} maxLength={1000} autosize minRows={2} />
          <Statements text={form.values.question} />
        </div>
        <h2 className={css.step}>What differs</h2>
        <Studied study={study} />
        <Repeat />
        <h2 className={css.step}>{form.values.studied === "material" ? "Materials, the reference first" : crossable(form.values.studied) ? "Of one material, or of each of several" : "Of one material"}</h2>
        <Materials study={study} />
        {study.factor === "colour" && <p className="soft">All of one product: its colours are what is studied.</p>}
        {form.values.studied === "treatment" && (
          <>
            <h2 className={css.step}>Treatments that are studied</h2>
            <Treatments study={study} />
          </>
        )}
        {(form.values.studied === "lot" || form.values.studied === "printer" || form.values.studied === "rig") && (
          <>
            <h2 className={css.step}>{{ lot: "Its spools and lots", printer: "Printers", rig: "Rigs that do these tests" }[form.values.studied]}, the reference first</h2>
            <Picked study={study} />
          </>
        )}
        {form.values.studied === "setting" && (
          <>
            <h2 className={css.step}>Settings that are studied</h2>
            <Sweep study={study} />
          </>
        )}
        <h2 className={css.step}>Tests</h2>
        <Tests study={study} />
      </div>
      <BoardToBe study={study} />
    </div>
  );
}

/** An older study once more: its plan is taken along. */
function Repeat() {
  const studies = useQuery(studiesOptions());
  const navigate = useNavigate();
  if (!studies.data?.items.length) return null;
  return (
    <Select
      aria-label="Or repeat an older study"
      placeholder="or repeat an older study …"
      data={studies.data.items.map((s) => ({ value: s.id, label: s.title }))}
      value={null}
      onChange={(id) => id && void navigate({ to: "/studies/$studyId/plan", params: { studyId: id }, search: { copy: true } })}
      searchable
      maw={420}
      mt="xs"
    />
  );
}

/** The materials in the stock, taken in by a touch, in the order of touching. */
function Materials({ study: { form, items, loaded } }: { study: NewStudy }) {
  const queries = useQueryClient();
  const { chosen } = form.values;
  return (
    <>
      <div className={css.materials}>
        {items.map((m) => {
          const place = chosen.indexOf(m.id);
          return (
            <button
              key={m.id}
              type="button"
              aria-pressed={place >= 0}
              className={css.material}
              onClick={() => form.setFieldValue("chosen", form.values.studied === "lot" ? [m.id] : place >= 0 ? chosen.filter((c) => c !== m.id) : [...chosen, m.id])}
            >
              <Swatch hex={m.hex} mark={m.mark} filled={m.filler !== null} size={30} />
              <span>
                {m.maker} {m.product}
                <span className="soft" style={{ display: "block", fontSize: "0.8rem" }}>
                  {m.colour} · {composition(m)}
                </span>
              </span>
              {place >= 0 && <span className={css.place}>{form.values.studied === "lot" || (form.values.studied !== "material" && chosen.length === 1) ? "this one" : place === 0 && form.values.studied === "material" ? "reference" : place + 1}</span>}
            </button>
          );
        })}
        {loaded && !items.length && <p className="soft">No material is registered yet: add the first one below.</p>}
      </div>
      <NewMaterialForm
        onAdded={(m) => {
          void queries.invalidateQueries({ queryKey: materialsOptions().queryKey });
          form.setFieldValue("chosen", (c) => [...c, m.id]);
        }}
      />
    </>
  );
}

/** Each method once, with the orientations it is tested in; how many of each, and what difference matters. */
function Tests({ study: { form, methods } }: { study: NewStudy }) {
  const { tests, replicates, spares, margin } = form.values;
  const toggle = (key: string) => form.setFieldValue("tests", tests.includes(key) ? tests.filter((x) => x !== key) : [...tests, key]);
  return (
    <div className={css.tests}>
      {methods.map((method) => (
        <div key={method.name} className={css.method}>
          <span>{method.label}</span>
          {method.orientations.map((orientation) => {
            const key = keyOf({ method, orientation });
            return (
              <button key={orientation} type="button" aria-pressed={tests.includes(key)} aria-label={`${method.label}, ${orientation}`} onClick={() => toggle(key)}>
                {orientation}
              </button>
            );
          })}
          {method.orientations.some((orientation) => tests.includes(keyOf({ method, orientation }))) && (
            <>
              <ShapeChoice method={method} orientations={method.orientations.filter((orientation) => tests.includes(keyOf({ method, orientation })))} shapes={form.values.shapes} onChange={(shapes) => form.setFieldValue("shapes", shapes)} />
              <ProtocolChoice method={method} typed={form.values.protocols} onChange={(protocols) => form.setFieldValue("protocols", protocols)} />
            </>
          )}
        </div>
      ))}
      <div className={css.counts}>
        <NumberEntry label="Specimens of each" value={replicates} placeholder="by its standard" onChange={(v) => form.setFieldValue("replicates", v)} min={1} max={50} whole w={150} />
        <NumberEntry label="Spares of each" value={spares} onChange={(v) => form.setFieldValue("spares", v)} min={0} max={50} whole w={120} title="printed beside them, in case one is lost" />
        <NumberEntry label="Difference that matters, %" value={margin} placeholder="each test's own" onChange={(v) => form.setFieldValue("margin", v)} min={0.1} max={100} w={210} title="of the reference's mean" />
      </div>
    </div>
  );
}

/** The board as it will stand, how many specimens that makes, and making it. */
function BoardToBe({ study }: { study: NewStudy }) {
  const { form, arms, planned, problem, ready } = study;
  const { title } = form.values;
  const counts = planned.map((c) => countOf(c, form.values));
  return (
    <aside className={css.preview} aria-label="The board it becomes">
      <h2>{title || "The board it becomes"}</h2>
      <Wide label="Materials and tests">
        <table>
          <thead>
            <tr>
              <th>Material</th>
              <th>Printed from</th>
              {planned.map((c) => (
                <th key={keyOf(c)}>
                  {c.method.label}, {c.orientation}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {arms.map((arm, i) => (
              <Arm key={`${arm.material.id} ${arm.words} ${JSON.stringify(arm.settings)}`} arm={arm} reference={i === 0} planned={planned} study={study} />
            ))}
          </tbody>
        </table>
      </Wide>
      <p>
        <strong className="figure">{arms.length * counts.reduce((sum, n) => sum + n, 0)}</strong> specimens
        {(study.form.values.spares ?? 0) > 0 && <span> and {arms.length * planned.length * (study.form.values.spares ?? 0)} spares</span>}
        <span className="soft"> · nothing is booked before you say what was printed</span>
        {counts.some((n) => n < 3) && <span className="soft"> · fewer than 3 of each rarely decide anything</span>}
      </p>
      <Refusal text={problem?.field === "title" ? null : problem?.text} />
      <Button disabled={!ready} loading={study.busy} onClick={() => void study.create()}>
        Make the study
      </Button>
      {!ready && <p className="soft">It needs {study.missing}.</p>}
    </aside>
  );
}

function Arm({ arm: { material: m, settings, words, spool: own }, reference, planned, study }: { arm: PlannedArm; reference: boolean; planned: Choice[]; study: NewStudy }) {
  const { spools } = study.form.values;
  return (
    <tr>
      <td>
        <Swatch hex={m.hex} mark={m.mark} filled={m.filler !== null} size={26} />
        {reference && <span className="visually-hidden">reference</span>}
        {words && <span style={{ display: "block", fontSize: "0.85rem" }}>{words}</span>}
        {Object.entries(settings).map(([name, value]) => {
          const spec = study.numbers.find((s) => s.name === name);
          return (
            <span key={name} style={{ display: "block", fontSize: "0.85rem", whiteSpace: "nowrap" }}>
              {spec?.label ?? name} {value} {spec?.unit}
            </span>
          );
        })}
      </td>
      <td className={css.from}>
        {own === null && <ArmSpool
          materialId={m.id}
          name={`${m.maker} ${m.product}, ${m.colour}`}
          pieces={planned.map((c) => ({ shape: shapeOf(c, study.form.values.shapes) ?? "", count: countOf(c, study.form.values) * study.arms.filter((a) => a.material.id === m.id).length }))}
          spoolId={spools[m.id]}
          onChange={(spool) => study.form.setFieldValue("spools", (s) => (m.id in s && s[m.id] === spool ? s : { ...s, [m.id]: spool }))}
        />}
      </td>
      {planned.map((c) => (
        <td key={keyOf(c)} className={css.planned}>
          {"○".repeat(Math.min(countOf(c, study.form.values), 10))}
        </td>
      ))}
    </tr>
  );
}
