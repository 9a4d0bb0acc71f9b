import { Button, Select, TextInput } from "@mantine/core";
import { useForm, type UseFormReturnType } from "@mantine/form";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { criteriaOptions, purposesOptions } from "../../api/queries/choose";
import { studiesOptions } from "../../api/queries/studies";
import { shownQuantity } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import { readNumber } from "../../ui/number";
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

interface NeedsProps {
  studyId: string;
  options: readonly Schemas["CriterionOption"][];
  onMade: (id: string) => void;
  onCancel: (() => void) | undefined;
}

function Needs({ studyId, options, onMade, onCancel }: NeedsProps) {
  const queries = useQueryClient();
  const [id] = useState(() => newId());
  const form = useForm<{ title: string; rows: Row[] }>({
    initialValues: { title: "", rows: options.filter((o) => o.main || o.quantity.endsWith("_ratio")).map(rowOf) },
    // the numbers of a row: nothing, or a number each
    validate: { rows: { noUse: isNumber, needed: isNumber, required: isNumber } },
  });
  const [problem, setProblem] = useState<string | null>(null);
  const { title, rows } = form.values;
  const used = rows.filter((r) => r.noUse.trim() && r.needed.trim());
  const make = form.onSubmit(async () => {
    try {
      unwrap<Schemas["PurposeView"]>(await client.POST("/api/purposes", { body: { id, study_id: studyId, title, criteria: used.map(criterionOf) } }));
      await queries.invalidateQueries({ queryKey: purposesOptions().queryKey });
      onMade(id);
    } catch (error) {
      setProblem(messageOf(error));
    }
  });
  const left = options.filter((o) => !rows.some((r) => r.test_id === o.test_id && r.quantity === o.quantity));
  return (
    <form onSubmit={make}>
      <TextInput label="The part" {...form.getInputProps("title")} required maxLength={160} maw={420} mt="xs" />
      <NeedsTable form={form} />
      <Select
        aria-label="Another quantity"
        placeholder="another quantity …"
        size="xs"
        maw={320}
        mt="xs"
        value={null}
        data={left.map((o) => ({ value: `${o.test_id} ${o.quantity}`, label: `${o.label}, ${o.test_label}, ${o.orientation}` }))}
        onChange={(v) => {
          const option = options.find((o) => `${o.test_id} ${o.quantity}` === v);
          if (option) form.insertListItem("rows", rowOf(option));
        }}
      />
      <p className="soft">A quantity without both numbers is left out. Where less is better, &quot;no use&quot; is the greater one.</p>
      <Refusal text={problem} />
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

const COLUMNS = [
  ["noUse", "no use at"],
  ["needed", "all that is needed at"],
  ["required", "must reach (if at all)"],
] as const;

function NeedsTable({ form }: { form: UseFormReturnType<{ title: string; rows: Row[] }> }) {
  return (
    <table className={`plain ${css.needs}`}>
      <thead>
        <tr>
          <th>quantity</th>
          {COLUMNS.map(([name, words]) => (
            <th key={name}>{words}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {form.values.rows.map((r, i) => (
          <tr key={r.id}>
            <td>{r.label}</td>
            {COLUMNS.map(([name, words]) => (
              <td key={name}>
                <TextInput
                  aria-label={`${r.label}: ${words.replace(" (if at all)", "")}`}
                  {...form.getInputProps(`rows.${String(i)}.${name}`)}
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
  );
}

const isNumber = (text: string) => (readNumber(text) === undefined ? "not a plain number" : null);

function criterionOf(r: Row): Schemas["CriterionSpec"] {
  const inKept = (text: string) => (readNumber(text) ?? 0) / r.factor;
  return { id: r.id, test_id: r.test_id, quantity: r.quantity, no_use: inKept(r.noUse), all_needed: inKept(r.needed), required: r.required.trim() ? inKept(r.required) : null, weight: 1 };
}
