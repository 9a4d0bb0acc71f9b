import { Button, Checkbox, ColorInput, NumberInput, Textarea, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, Problem, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { materialsOptions } from "../../api/queries/stock";
import { composition, Swatch } from "../../ui/Swatch";
import { ArmSpool } from "./ArmSpool";
import css from "./new.module.css";

const ORIENTATIONS = [
  { value: "flat", label: "Tension, flat" },
  { value: "upright", label: "Layer adhesion, upright" },
  { value: "on edge", label: "Tension, on edge" },
] as const;

/** A question, the materials asked, the tests: drawn as the board they will become. */
export function NewStudyPage() {
  const materials = useQuery(materialsOptions());
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [id] = useState(() => newId());
  const [title, setTitle] = useState("");
  const [question, setQuestion] = useState("");
  const [chosen, setChosen] = useState<string[]>([]);
  const [spools, setSpools] = useState<Record<string, string | null>>({});
  const [tests, setTests] = useState<string[]>(["flat", "upright"]);
  const [replicates, setReplicates] = useState(5);
  const [margin, setMargin] = useState(10);
  const [problem, setProblem] = useState<{ field: string | undefined; text: string } | null>(null);
  const [busy, setBusy] = useState(false);
  const items = materials.data?.items ?? [];
  const arms = chosen.flatMap((m) => items.filter((i) => i.id === m));
  const count = arms.length * tests.length * replicates;

  const create = async () => {
    setBusy(true);
    try {
      const study = unwrap<Schemas["StudyView"]>(
        await client.POST("/api/studies", {
          body: {
            id,
            title,
            question,
            studied_factor: "material",
            settings: "as printed",
            arms: chosen.map((material_id) => ({ id: newId(), material_id, treatment: "", spool_id: spools[material_id] ?? null })),
            tests: ORIENTATIONS.filter((o) => tests.includes(o.value)).map((o) => ({
              id: newId(),
              method: "tension" as const,
              orientation: o.value,
              shape: "short-pull-bar",
              replicates,
              margin: margin / 100,
              margin_relative: true,
            })),
          },
        }),
      );
      await queries.invalidateQueries({ queryKey: ["studies"] });
      await navigate({ to: "/studies/$studyId/board", params: { studyId: study.id } });
    } catch (error) {
      setProblem({ field: error instanceof Problem ? error.field : undefined, text: messageOf(error) });
    } finally {
      setBusy(false);
    }
  };
  const ready = title.trim() && arms.length > 0 && tests.length > 0;
  return (
    <div className={`page ${css.page}`}>
      <div>
        <h1>New study</h1>
        <div className={css.words}>
          <TextInput label="What is it called?" value={title} onChange={(e) => setTitle(e.currentTarget.value)} maxLength={160} error={problem?.field === "title" ? problem.text : null} />
          <Textarea label="Which question does it answer?" value={question} onChange={(e) => setQuestion(e.currentTarget.value)} maxLength={1000} autosize minRows={2} />
        </div>
        <h2 className={css.step}>Materials, the reference first</h2>
        <div className={css.materials}>
          {items.map((m) => {
            const place = chosen.indexOf(m.id);
            return (
              <button
                key={m.id}
                type="button"
                aria-pressed={place >= 0}
                className={css.material}
                onClick={() => setChosen(place >= 0 ? chosen.filter((c) => c !== m.id) : [...chosen, m.id])}
              >
                <Swatch hex={m.hex} mark={m.mark} filled={m.filler !== null} size={30} />
                <span>
                  {m.maker} {m.product}
                  <span className="soft" style={{ display: "block", fontSize: "0.8rem" }}>
                    {m.colour} · {composition(m)}
                  </span>
                </span>
                {place >= 0 && <span className={css.place}>{place === 0 ? "reference" : place + 1}</span>}
              </button>
            );
          })}
          {materials.data && !items.length && <p className="soft">No material is registered yet: add the first one below.</p>}
        </div>
        <NewMaterialForm
          onAdded={(m) => {
            void queries.invalidateQueries({ queryKey: ["materials"] });
            setChosen((c) => [...c, m.id]);
          }}
        />
        <h2 className={css.step}>Tests</h2>
        <div className={css.tests}>
          {ORIENTATIONS.map((o) => (
            <Checkbox
              key={o.value}
              label={o.label}
              checked={tests.includes(o.value)}
              onChange={(e) => setTests(e.currentTarget.checked ? [...tests, o.value] : tests.filter((t) => t !== o.value))}
            />
          ))}
          <div className={css.counts}>
          <NumberInput label="Specimens of each" value={replicates} onChange={(v) => setReplicates(Math.max(1, Math.min(50, Number(v) || 1)))} min={1} max={50} w={140} />
          <NumberInput label="Difference that matters, %" value={margin} onChange={(v) => setMargin(Math.max(1, Number(v) || 10))} min={1} max={100} w={200} title="of the reference's mean" />
          </div>
        </div>
      </div>
      <aside className={css.preview} aria-label="The board it becomes">
        <h2>{title || "The board it becomes"}</h2>
        <table>
          <thead>
            <tr>
              <th />
              <th>Printed from</th>
              {ORIENTATIONS.filter((o) => tests.includes(o.value)).map((o) => (
                <th key={o.value}>{o.label}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {arms.map((m, i) => (
              <tr key={m.id}>
                <td>
                  <Swatch hex={m.hex} mark={m.mark} filled={m.filler !== null} size={26} />
                  {i === 0 && <span className="visually-hidden">reference</span>}
                </td>
                <td className={css.from}>
                  <ArmSpool
                    materialId={m.id}
                    name={`${m.maker} ${m.product}, ${m.colour}`}
                    count={tests.length * replicates}
                    shape="short-pull-bar"
                    spoolId={spools[m.id]}
                    onChange={(spool) => setSpools((s) => (m.id in s && s[m.id] === spool ? s : { ...s, [m.id]: spool }))}
                  />
                </td>
                {tests.map((t) => (
                  <td key={t} className={css.planned}>
                    {"○".repeat(Math.min(replicates, 10))}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        <p>
          <strong className="figure">{count}</strong> specimens
          {replicates < 3 && <span className="soft"> · fewer than 3 of each rarely decide anything</span>}
        </p>
        {problem && problem.field !== "title" && (
          <p role="alert" style={{ color: "var(--worse)" }}>
            {problem.text}
          </p>
        )}
        <Button disabled={!ready} loading={busy} onClick={() => void create()}>
          Make the study
        </Button>
        {!ready && <p className="soft">It needs a name, a material and a test.</p>}
      </aside>
    </div>
  );
}

function NewMaterialForm({ onAdded }: { onAdded: (m: Schemas["MaterialView"]) => void }) {
  const empty = { maker: "", product: "", polymer: "", filler: "", share: "", colour: "", hex: "#7A8288" };
  const [values, setValues] = useState(empty);
  const [open, setOpen] = useState(false);
  const [problem, setProblem] = useState<{ field: string | undefined; text: string } | null>(null);
  const set = (name: keyof typeof empty) => (e: { currentTarget: { value: string } }) => setValues({ ...values, [name]: e.currentTarget.value });
  const errorOf = (name: string) => (problem?.field === name ? problem.text : null);
  const add = async () => {
    try {
      const made = unwrap<Schemas["MaterialView"]>(
        await client.POST("/api/materials", {
          body: {
            id: newId(),
            maker: values.maker,
            product: values.product,
            polymer: values.polymer,
            filler: values.filler || null,
            filler_share: values.share ? Number(values.share.replace(",", ".")) : null,
            colour: values.colour,
            hex: values.hex,
            diameter: 1.75,
            currency: "",
            obtained: "",
            note: "",
            confirmed: [],
          },
        }),
      );
      onAdded(made);
      setValues(empty);
      setOpen(false);
      setProblem(null);
    } catch (error) {
      setProblem({ field: error instanceof Problem ? error.field : undefined, text: messageOf(error) });
    }
  };
  if (!open) {
    return (
      <Button variant="default" size="xs" mt="xs" onClick={() => setOpen(true)}>
        Another material …
      </Button>
    );
  }
  return (
    <form
      className={css.add}
      onSubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <TextInput label="Maker" value={values.maker} onChange={set("maker")} error={errorOf("maker")} required />
      <TextInput label="Product" value={values.product} onChange={set("product")} error={errorOf("product")} required />
      <TextInput label="Base polymer" value={values.polymer} onChange={set("polymer")} error={errorOf("polymer")} required />
      <TextInput label="Filler" value={values.filler} onChange={set("filler")} error={errorOf("filler")} placeholder="none" />
      <TextInput label="Share, % by mass" value={values.share} onChange={set("share")} error={errorOf("filler_share")} />
      <TextInput label="Colour" value={values.colour} onChange={set("colour")} error={errorOf("colour")} required />
      <ColorInput label="as on the spool" value={values.hex} onChange={(hex) => setValues({ ...values, hex })} format="hex" eyeDropperButtonProps={{ "aria-label": "take the colour from the screen" }} />
      <div style={{ display: "flex", gap: 8, alignItems: "end" }}>
        <Button type="submit">Add</Button>
        <Button variant="subtle" onClick={() => setOpen(false)}>
          Cancel
        </Button>
      </div>
      {problem && !["maker", "product", "polymer", "filler", "filler_share", "colour"].includes(problem.field ?? "") && (
        <p role="alert" style={{ color: "var(--worse)", gridColumn: "1 / -1", margin: 0 }}>
          {problem.text}
        </p>
      )}
    </form>
  );
}
