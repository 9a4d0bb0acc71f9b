import { Button, NumberInput, Textarea, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, Problem, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { declarationsOptions } from "../../api/queries/rigs";
import { materialsOptions } from "../../api/queries/stock";
import { composition, Swatch } from "../../ui/Swatch";
import { ArmSpool } from "./ArmSpool";
import { NewMaterialForm } from "./NewMaterialForm";
import css from "./new.module.css";

interface Choice {
  method: Schemas["MethodView"];
  orientation: Schemas["NewTest"]["orientation"];
}

const keyOf = (c: Choice) => `${c.method.name} ${c.orientation}`;

/** A question, the materials asked, the tests: drawn as the board they will become. */
export function NewStudyPage() {
  const materials = useQuery(materialsOptions());
  const declared = useQuery(declarationsOptions());
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [id] = useState(() => newId());
  const [title, setTitle] = useState("");
  const [question, setQuestion] = useState("");
  const [chosen, setChosen] = useState<string[]>([]);
  const [spools, setSpools] = useState<Record<string, string | null>>({});
  const [tests, setTests] = useState<string[]>(["tension flat", "tension upright"]);
  const [replicates, setReplicates] = useState(5);
  const [margin, setMargin] = useState<number | null>(null);
  const [problem, setProblem] = useState<{ field: string | undefined; text: string } | null>(null);
  const [busy, setBusy] = useState(false);
  const items = materials.data?.items ?? [];
  const arms = chosen.flatMap((m) => items.filter((i) => i.id === m));
  const choices: Choice[] = (declared.data?.methods ?? []).flatMap((method) => method.orientations.map((orientation) => ({ method, orientation })));
  const planned = choices.filter((c) => tests.includes(keyOf(c)));
  const pieces = planned.map((c) => ({ shape: c.method.shapes[0]?.name ?? "", count: replicates }));
  const count = arms.length * planned.length * replicates;

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
            tests: planned.map((c) => ({
              id: newId(),
              method: c.method.name,
              orientation: c.orientation,
              shape: c.method.shapes[0]?.name ?? null,
              protocol: {},
              replicates,
              margin: margin === null ? null : margin / 100,
              margin_relative: true,
            })),
          },
        }),
      );
      await queries.invalidateQueries({ queryKey: ["studies"] });
      await navigate({ to: "/studies/$studyId/print", params: { studyId: study.id } });
    } catch (error) {
      setProblem({ field: error instanceof Problem ? error.field : undefined, text: messageOf(error) });
    } finally {
      setBusy(false);
    }
  };
  const ready = title.trim() && arms.length > 0 && planned.length > 0;
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
          {(declared.data?.methods ?? []).map((method) => (
            <div key={method.name} className={css.method}>
              <span>{method.label}</span>
              {method.orientations.map((orientation) => {
                const key = keyOf({ method, orientation });
                return (
                  <button key={orientation} type="button" aria-pressed={tests.includes(key)} aria-label={`${method.label}, ${orientation}`} onClick={() => setTests(tests.includes(key) ? tests.filter((x) => x !== key) : [...tests, key])}>
                    {orientation}
                  </button>
                );
              })}
            </div>
          ))}
          <div className={css.counts}>
          <NumberInput label="Specimens of each" value={replicates} onChange={(v) => setReplicates(Math.max(1, Math.min(50, Number(v) || 1)))} min={1} max={50} w={140} />
          <NumberInput label="Difference that matters, %" value={margin ?? ""} placeholder="each test's own" onChange={(v) => setMargin(v === "" ? null : Math.max(1, Number(v)))} min={1} max={100} w={200} title="of the reference's mean" />
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
              {planned.map((c) => (
                <th key={keyOf(c)}>
                  {c.method.label}, {c.orientation}
                </th>
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
                    pieces={pieces}
                    spoolId={spools[m.id]}
                    onChange={(spool) => setSpools((s) => (m.id in s && s[m.id] === spool ? s : { ...s, [m.id]: spool }))}
                  />
                </td>
                {planned.map((c) => (
                  <td key={keyOf(c)} className={css.planned}>
                    {"○".repeat(Math.min(replicates, 10))}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        <p>
          <strong className="figure">{count}</strong> specimens
          <span className="soft"> · nothing is booked before you say what was printed</span>
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
