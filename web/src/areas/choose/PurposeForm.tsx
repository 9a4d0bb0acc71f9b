import { Button, Checkbox, Select, TextInput } from "@mantine/core";
import { type UseFormReturnType } from "@mantine/form";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { criteriaOptions, purposeOptions } from "../../api/queries/choose";
import { studiesOptions } from "../../api/queries/studies";
import { ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { readNumber, typed } from "../../ui/number";
import css from "./choose.module.css";
import { type Shown, shownQuantity } from "../../ui/units";
import { AddOne } from "../../ui/AddOne";
import { newId } from "../../api/ids";
import { Restored, useDraftForm } from "../../ui/useDraftForm";

interface Row {
  id: string;
  test_id: string;
  quantity: string;
  label: string;
  /** Typed numbers are in the unit that was shown when the row was made; this leads back to the kept one. */
  shown: Shown;
  noUse: string;
  needed: string;
  required: string;
  /** A value is wanted, not a side: what lies off it, to either side, is of less use. */
  near: boolean;
  /** What is kept of it, and how it was shown: limits that are not touched stay to the last digit, whatever the unit. */
  kept?: { of: Kept; noUse: string; needed: string; required: string };
}

type Purpose = Schemas["PurposeView"];
type Kept = Purpose["criteria"][number];

/** A quantity that may be asked for; with the limits of the criterion that asks for it already. */
const rowOf = (choice: Schemas["CriterionOption"], kept?: Kept): Row => {
  const shown = shownQuantity(choice);
  const limit = (value: number | null | undefined) => (value == null ? "" : typed(Number(shown.at(value).toPrecision(8))));
  if (kept) {
    const limits = { noUse: limit(kept.no_use), needed: limit(kept.all_needed), required: limit(kept.required) };
    return { ...rowOf(choice), ...limits, id: kept.id, near: kept.near, kept: { of: kept, ...limits } };
  }
  return { id: newId(), test_id: choice.test_id, quantity: choice.quantity, label: `${choice.label}, ${choice.orientation}`, shown, noUse: "", needed: "", required: "", near: choice.good_side === "none" || choice.good_side === "near" };
};

/** What a part needs: for each quantity, where it is of no use and where it is all that is needed. */
export function NewPurpose({ onMade, onCancel }: { onMade: (id: string) => void; onCancel?: () => void }) {
  const studies = useQuery(studiesOptions());
  const [studyId, setStudyId] = useState<string | null>(null);
  const chosen = studyId ?? studies.data?.items[0]?.id ?? null;
  const options = useQuery({ ...criteriaOptions(chosen ?? ""), enabled: chosen !== null });
  if (studies.data && !studies.data.items.length) return <p className="soft">A purpose is ranked from a study: plan one first.</p>;
  return (
    <div className={css.form}>
      <h2>What is the part, and what does it need?</h2>
      <Select label="Evidence from the study" value={chosen} onChange={setStudyId} data={(studies.data?.items ?? []).map((s) => ({ value: s.id, label: s.title }))} allowDeselect={false} maw={420} mt="xs" />
      {options.data && chosen && <Needs key={chosen} studyId={chosen} options={options.data.items} onMade={onMade} onCancel={onCancel} />}
    </div>
  );
}

/** What a purpose asks for, to be changed. */
export function EditPurpose({ purpose, onMade, onCancel }: { purpose: Purpose; onMade: (id: string) => void; onCancel: () => void }) {
  const options = useQuery(criteriaOptions(purpose.study_id));
  if (options.isPending) return <Waiting what="Reading the quantities …" />;
  if (options.isError) return <ErrorNote error={options.error} again={() => void options.refetch()} />;
  return (
    <div className={css.form}>
      <Needs studyId={purpose.study_id} options={options.data.items} purpose={purpose} onMade={onMade} onCancel={onCancel} />
    </div>
  );
}

interface NeedsProps {
  studyId: string;
  options: readonly Schemas["CriterionOption"][];
  purpose?: Purpose;
  onMade: (id: string) => void;
  onCancel: (() => void) | undefined;
}

function Needs({ studyId, options, purpose, onMade, onCancel }: NeedsProps) {
  const queries = useQueryClient();
  const draft = useDraftForm<{ title: string; rows: Row[] }>(`assayer.form.purpose.${purpose ? `${purpose.id}.${String(purpose.revision)}` : studyId}`, {
    initialValues: { title: purpose?.title ?? "", rows: startOf(options, purpose) },
    // how a quantity is shown is not kept; one that the study no longer has is left out
    revive: (kept) => ({
      ...kept,
      rows: kept.rows.flatMap((row) => {
        const option = options.find((o) => o.test_id === row.test_id && o.quantity === row.quantity);
        return option ? [{ ...row, shown: shownQuantity(option) }] : [];
      }),
    }),
    // the numbers of a row: nothing, or a number each
    validate: { rows: { noUse: isNumber, needed: isNumber, required: isNumber } },
  });
  const { form, id } = draft;
  const [problem, setProblem] = useState<string | null>(null);
  const { title, rows } = form.values;
  const used = rows.filter((r) => r.noUse.trim() && r.needed.trim());
  const make = form.onSubmit(async () => {
    try {
      const criteria = used.map(criterionOf);
      if (purpose) {
        const params = { path: { purpose_id: purpose.id }, header: { "if-match": `"${String(purpose.revision)}"` } };
        queries.setQueryData(purposeOptions(purpose.id).queryKey, unwrap<Purpose>(await client.PATCH("/api/purposes/{purpose_id}", { params, body: { title, criteria, weights: {} } })));
      } else unwrap<Purpose>(await client.POST("/api/purposes", { body: { id, study_id: studyId, title, criteria } }));
      draft.forget();
      refresh(queries, "/api/purposes");
      onMade(purpose?.id ?? id);
    } catch (error) {
      setProblem(messageOf(error));
    }
  });
  const left = options.filter((o) => !rows.some((r) => r.test_id === o.test_id && r.quantity === o.quantity));
  return (
    <form onSubmit={make}>
      <Restored draft={draft} />
      <TextInput label="The part" {...form.getInputProps("title")} required maxLength={160} maw={420} mt="xs" />
      <NeedsTable form={form} />
      <AddOne
        label="Another quantity"
        maw={320}
        data={left.map((o) => ({ value: `${o.test_id} ${o.quantity}`, label: `${o.label}, ${o.test_label}, ${o.orientation}` }))}
        onAdd={(v) => {
          const option = options.find((o) => `${o.test_id} ${o.quantity}` === v);
          if (option) form.insertListItem("rows", rowOf(option));
        }}
      />
      <p className="soft">A quantity without both numbers is left out. Where less is better, “no use” is the greater one. Where a certain value is wanted (a sheen, a shade, a size), “no use” is how far off it may be, to one side or the other.</p>
      <Refusal text={problem} />
      <Button type="submit" disabled={!title.trim() || !used.length}>
        {purpose ? "Keep the changes" : "Rank for this purpose"}
      </Button>
      {onCancel && (
        <Button variant="subtle" ml="xs" onClick={onCancel}>
          Cancel
        </Button>
      )}
    </form>
  );
}

/** What is asked for already, then what usually is. */
function startOf(options: readonly Schemas["CriterionOption"][], purpose: Purpose | undefined): Row[] {
  const same = (o: { test_id: string; quantity: string }) => (c: { test_id: string; quantity: string }) => c.test_id === o.test_id && c.quantity === o.quantity;
  // a quantity may be asked for that nothing was measured of yet
  const asked = (purpose?.criteria ?? []).map((c) => rowOf(options.find(same(c)) ?? { ...c, good_side: "none", main: false }, c));
  const usual = options.filter((o) => (o.main || o.quantity.endsWith("_ratio")) && !asked.some(same(o)));
  return [...asked, ...usual.map((o) => rowOf(o))];
}

const COLUMNS = [
  ["noUse", "no use at", "no use at, to either side"],
  ["needed", "all that is needed at", "wanted"],
  ["required", "must reach (if at all)", "must be as near as"],
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
            <td>
              {r.label}
              <Checkbox size="xs" mt={4} label="a certain value is wanted" checked={r.near} onChange={(e) => form.setFieldValue(`rows.${String(i)}.near`, e.currentTarget.checked)} />
            </td>
            {COLUMNS.map(([name, words, nearWords]) => (
              <td key={name}>
                <TextInput
                  aria-label={`${r.label}: ${(r.near ? nearWords : words).replace(" (if at all)", "")}`}
                  description={r.near ? nearWords : undefined}
                  inputWrapperOrder={["input", "description"]}
                  {...form.getInputProps(`rows.${String(i)}.${name}`)}
                  inputMode="decimal"
                  rightSection={<span className="soft">{r.shown.unit}</span>}
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
  const of = r.kept?.of;
  const inKept = (name: "noUse" | "needed" | "required", kept: number | null | undefined) => (kept != null && r.kept?.[name] === r[name] ? kept : r.shown.back(readNumber(r[name]) ?? 0));
  return {
    id: r.id,
    test_id: r.test_id,
    quantity: r.quantity,
    no_use: inKept("noUse", of?.no_use),
    all_needed: inKept("needed", of?.all_needed),
    required: r.required.trim() ? inKept("required", of?.required) : null,
    near: r.near,
    weight: of?.weight ?? 1,
  };
}
