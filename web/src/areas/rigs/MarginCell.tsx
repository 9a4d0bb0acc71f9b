import { ActionIcon, Button, NativeSelect, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { short } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import { readNumber, typed } from "../../ui/number";
import { shownUnit } from "../../ui/units";

type Quantity = Schemas["MethodView"]["quantities"][number];

interface MarginCellProps {
  method: string;
  quantity: Quantity;
  /** What the lab has set itself; absent where it has not. */
  own: Schemas["LabMarginView"] | undefined;
}

/** The smallest difference that matters: the method's, or the lab's own, which is set here. */
export function MarginCell({ method, quantity: q, own }: MarginCellProps) {
  const [open, setOpen] = useState(false);
  if (q.good_side === "none") return "–";
  if (q.graded) return "by ranks";
  if (open) return <MarginForm method={method} quantity={q} own={own} onDone={() => setOpen(false)} />;
  const { unit, factor } = shownUnit(q.unit);
  const words = (value: number, relative: boolean) => (relative ? `${typed(Number((100 * value).toPrecision(4)))} % of it` : [short(value * factor), unit].filter(Boolean).join(" "));
  return (
    <>
      {own ? words(own.value, own.relative) : words(q.margin, q.margin_relative)}{" "}
      <ActionIcon variant="subtle" size="sm" aria-label={`Set the margin of ${q.label}`} onClick={() => setOpen(true)}>
        ✎
      </ActionIcon>
      {own && <div className="soft">your own; the method’s is {words(q.margin, q.margin_relative)}</div>}
    </>
  );
}

function MarginForm({ method, quantity: q, own, onDone }: MarginCellProps & { onDone: () => void }) {
  const queries = useQueryClient();
  const unit = shownUnit(q.unit);
  const factorOf = (relative: boolean) => (relative ? 100 : unit.factor);
  const current = own ?? { value: q.margin, relative: q.margin_relative };
  const [relative, setRelative] = useState(current.relative);
  const [text, setText] = useState(typed(Number((current.value * factorOf(current.relative)).toPrecision(6))));
  const [problem, setProblem] = useState<string | null>(null);
  const value = readNumber(text);
  const isValid = value != null && value > 0;
  const save = async (margin: Schemas["MarginValue"] | null) => {
    try {
      unwrap<Schemas["LabMarginList"]>(await client.PUT("/api/methods/{method}/margins/{quantity}", { params: { path: { method, quantity: q.name } }, body: { margin } }));
      refresh(queries, "/api/margins", "/api/tests/{test_id}/findings", "/api/materials/{material_id}");
      onDone();
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <form
      style={{ display: "inline-flex", flexWrap: "wrap", gap: 6, alignItems: "start", justifyContent: "flex-end" }}
      onSubmit={(e) => {
        e.preventDefault();
        if (isValid) void save({ value: value / factorOf(relative), relative });
      }}
    >
      <TextInput aria-label={`Margin of ${q.label}`} size="xs" w={80} inputMode="decimal" autoFocus value={text} onChange={(e) => setText(e.currentTarget.value)} error={!isValid && "a number above 0"} />
      <NativeSelect
        aria-label={`Unit of the margin of ${q.label}`}
        size="xs"
        w={90}
        value={relative ? "relative" : "absolute"}
        onChange={(e) => setRelative(e.currentTarget.value === "relative")}
        data={[...(q.ratio_scale ? [{ value: "relative", label: "% of it" }] : []), { value: "absolute", label: unit.unit || "plain" }]}
      />
      <Button size="xs" type="submit" variant="default" disabled={!isValid}>
        Save
      </Button>
      {own && (
        <Button size="xs" variant="subtle" onClick={() => void save(null)}>
          Take the method’s
        </Button>
      )}
      <Button size="xs" variant="subtle" onClick={onDone}>
        Cancel
      </Button>
      <Refusal text={problem} />
    </form>
  );
}
