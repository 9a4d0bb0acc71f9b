import { Button, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";

import { printersOptions } from "../../api/queries/printing";
import { rigsOptions } from "../../api/queries/rigs";
import { dossierOptions } from "../../api/queries/stock";
import css from "./new.module.css";
import type { NewStudy } from "./useNewStudy";

const EXAMPLES = ["annealed 2 h at 80 °C", "soaked 24 h in water", "28 days in the sun", "dried 8 h at 65 °C before printing"];

/** Treatments of one material; an arm that is not treated is planned with them. */
export function Treatments({ study: { form } }: { study: NewStudy }) {
  const { treatments } = form.values;
  const set = (i: number, text: string) => form.setFieldValue("treatments", treatments.map((t, j) => (j === i ? text : t)));
  return (
    <div className={css.sweep}>
      <p className="soft" style={{ margin: 0 }}>
        Beside them one arm is planned that is not treated: the control, and the reference.
      </p>
      {treatments.map((text, i) => (
        <div key={i} className={css.factor}>
          <TextInput aria-label={`Treatment ${String(i + 1)}`} placeholder={`such as: ${EXAMPLES[i % EXAMPLES.length] ?? ""}`} value={text} maxLength={120} onChange={(e) => set(i, e.currentTarget.value)} w={380} />
          {treatments.length > 1 && (
            <Button variant="subtle" size="compact-sm" onClick={() => form.setFieldValue("treatments", treatments.filter((_, j) => j !== i))}>
              leave out
            </Button>
          )}
        </div>
      ))}
      {treatments.length < 8 && (
        <Button variant="default" size="sm" style={{ justifySelf: "start" }} onClick={() => form.setFieldValue("treatments", [...treatments, ""])}>
          Another treatment
        </Button>
      )}
    </div>
  );
}

interface Named {
  id: string;
  name: string;
  note: string;
}

/** The spools, printers or rigs that are held against one another, taken in by a touch: the first is the reference. */
export function Picked({ study }: { study: NewStudy }) {
  const { form, candidates } = study;
  const { picked } = form.values;
  return (
    <div className={css.materials} role="group" aria-label="What is compared">
      {candidates.map((c: Named) => {
        const place = picked.indexOf(c.id);
        return (
          <button key={c.id} type="button" aria-pressed={place >= 0} className={css.material} onClick={() => form.setFieldValue("picked", place >= 0 ? picked.filter((p) => p !== c.id) : [...picked, c.id])}>
            <span>
              {c.name}
              <span className="soft" style={{ display: "block", fontSize: "0.8rem" }}>
                {c.note}
              </span>
            </span>
            {place >= 0 && <span className={css.place}>{place === 0 ? "reference" : place + 1}</span>}
          </button>
        );
      })}
      {!candidates.length && <p className="soft">{form.values.studied === "lot" ? "Choose the material above; its spools are offered here." : "None is registered yet."}</p>}
    </div>
  );
}

/** What can be compared: spools of the material, printers, or rigs that do a test which is planned. */
export function useCandidates(kind: string, materialId: string | undefined, methods: readonly string[]): Named[] {
  const dossier = useQuery({ ...dossierOptions(materialId ?? ""), enabled: kind === "lot" && materialId !== undefined });
  const printers = useQuery({ ...printersOptions(), enabled: kind === "printer" });
  const rigs = useQuery({ ...rigsOptions(), enabled: kind === "rig" });
  if (kind === "lot") return (dossier.data?.spools ?? []).filter((s) => !s.gone_at && s.decision !== "reject").map((s) => ({ id: s.id, name: s.lot || s.code, note: `spool ${s.code}` }));
  if (kind === "printer") return (printers.data?.items ?? []).map((p) => ({ id: p.id, name: p.name, note: p.bed_surface }));
  if (kind === "rig") return (rigs.data?.items ?? []).filter((r) => r.methods.some((m) => methods.includes(m))).map((r) => ({ id: r.rig_id, name: r.name, note: r.methods.join(", ") }));
  return [];
}
