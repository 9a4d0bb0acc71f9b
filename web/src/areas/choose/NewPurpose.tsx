import { Button, Select, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { criteriaOptions } from "../../api/queries/choose";
import { studiesOptions } from "../../api/queries/studies";
import { shownQuantity } from "../../ui/format";
import css from "./choose.module.css";

interface Row {
  id: string;
  test_id: string;
  quantity: string;
  label: string;
  unit: string;
  /** Typed numbers are in the shown unit; this leads back to the kept one. */
  factor: number;
  noUse: string;
  needed: string;
  required: string;
}

const rowOf = (choice: Schemas["CriterionOption"]): Row => {
  const { unit, factor } = shownQuantity(choice);
  return { id: newId(), test_id: choice.test_id, quantity: choice.quantity, label: `${choice.label}, ${choice.orientation}`, unit, factor, noUse: "", needed: "", required: "" };
};

/** What a part needs: for each quantity, where it is of no use and where it is all that is needed. */
export function NewPurpose({ onMade, onCancel }: { onMade: (id: string) => void; onCancel?: () => void }) {
  const studies = useQuery(studiesOptions());
  const [studyId, setStudyId] = useState<string | null>(null);
  const chosen = studyId ?? studies.data?.items[0]?.id ?? null;
  const options = useQuery({ ...criteriaOptions(chosen ?? ""), enabled: chosen !== null });
  if (studies.data && !studies.data.items.length) return <p className="soft">A purpose is ranked from a study: plan one first.</p>;
  return (
    <div style={{ maxWidth: 760 }}>
      <h2>What is the part, and what does it need?</h2>
      <Select label="Evidence from the study" value={chosen} onChange={setStudyId} data={(studies.data?.items ?? []).map((s) => ({ value: s.id, label: s.title }))} allowDeselect={false} maw={420} mt="xs" />
      {options.data && chosen && <Needs key={chosen} studyId={chosen} options={options.data.items} onMade={onMade} onCancel={onCancel} />}
    </div>
  );
}

function Needs({ studyId, options, onMade, onCancel }: { studyId: string; options: readonly Schemas["CriterionOption"][]; onMade: (id: string) => void; onCancel: (() => void) | undefined }) {
  const queries = useQueryClient();
  const [id] = useState(() => newId());
  const [title, setTitle] = useState("");
  const [rows, setRows] = useState(() => options.filter((o) => o.main || o.quantity.endsWith("_ratio")).map(rowOf));
  const [problem, setProblem] = useState<string | null>(null);
  const set = (i: number, change: Partial<Row>) => setRows(rows.map((r, k) => (k === i ? { ...r, ...change } : r)));
  const number = (text: string) => Number(text.trim().replace(",", "."));
  const used = rows.filter((r) => r.noUse.trim() && r.needed.trim());
  const make = async () => {
    try {
      unwrap<Schemas["PurposeView"]>(
        await client.POST("/api/purposes", {
          body: {
            id,
            study_id: studyId,
            title,
            criteria: used.map((r) => ({
              id: r.id,
              test_id: r.test_id,
              quantity: r.quantity,
              no_use: number(r.noUse) / r.factor,
              all_needed: number(r.needed) / r.factor,
              required: r.required.trim() ? number(r.required) / r.factor : null,
              weight: 1,
            })),
          },
        }),
      );
      await queries.invalidateQueries({ queryKey: ["purposes"] });
      onMade(id);
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void make();
      }}
    >
      <TextInput label="The part" value={title} onChange={(e) => setTitle(e.currentTarget.value)} required maxLength={160} maw={420} mt="xs" />
      <table className={`plain ${css.needs}`}>
        <thead>
          <tr>
            <th>quantity</th>
            <th>no use at</th>
            <th>all that is needed at</th>
            <th>must reach (if at all)</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r, i) => (
            <tr key={r.id}>
              <td>{r.label}</td>
              {(["noUse", "needed", "required"] as const).map((name, k) => (
                <td key={name}>
                  <TextInput
                    aria-label={`${r.label}: ${["no use at", "all that is needed at", "must reach"][k] ?? ""}`}
                    value={r[name]}
                    onChange={(e) => set(i, { [name]: e.currentTarget.value })}
                    inputMode="decimal"
                    rightSection={<span className="soft">{r.unit}</span>}
                    rightSectionWidth={48}
                    w={130}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <Select
        aria-label="Another quantity"
        placeholder="another quantity …"
        size="xs"
        maw={320}
        mt="xs"
        value={null}
        data={options.filter((o) => !rows.some((r) => r.test_id === o.test_id && r.quantity === o.quantity)).map((o) => ({ value: `${o.test_id} ${o.quantity}`, label: `${o.label}, ${o.test_label}, ${o.orientation}` }))}
        onChange={(v) => {
          const option = options.find((o) => `${o.test_id} ${o.quantity}` === v);
          if (option) setRows([...rows, rowOf(option)]);
        }}
      />
      <p className="soft">A quantity without both numbers is left out. Where less is better, &quot;no use&quot; is the greater one.</p>
      {problem && (
        <p role="alert" style={{ color: "var(--worse)" }}>
          {problem}
        </p>
      )}
      <Button type="submit" disabled={!title.trim() || !used.length}>
        Rank for this purpose
      </Button>
      {onCancel && (
        <Button variant="subtle" ml="xs" onClick={onCancel}>
          Cancel
        </Button>
      )}
    </form>
  );
}
