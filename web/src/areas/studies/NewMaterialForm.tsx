import { Button, ColorInput, TextInput } from "@mantine/core";
import { useState } from "react";

import { client, messageOf, Problem, type Schemas, unwrap } from "../../api/client";
import { Refusal } from "../../ui/Notes";
import { readNumber } from "../../ui/number";
import { NEUTRAL } from "../../ui/Swatch";
import { Restored, useDraftForm } from "../../ui/useDraftForm";
import css from "./new.module.css";

/** The few words that a material needs to be planned with; the rest is asked when its bag is opened. */
export function NewMaterialForm({ onAdded }: { onAdded: (m: Schemas["MaterialView"]) => void }) {
  const draft = useDraftForm("assayer.form.material.short", {
    initialValues: { maker: "", product: "", polymer: "", filler: "", filler_share: "", colour: "", hex: NEUTRAL },
    validate: { filler_share: (text) => (readNumber(text) === undefined ? "not a plain number" : null) },
  });
  const { form, id } = draft;
  const [open, setOpen] = useState(draft.restored);
  const [problem, setProblem] = useState<string | null>(null);
  const add = form.onSubmit(async (values) => {
    try {
      const more = { filler: values.filler || null, filler_share: readNumber(values.filler_share) ?? null, diameter: 1.75, currency: "", obtained: "" as const, note: "", confirmed: [] };
      onAdded(unwrap<Schemas["MaterialView"]>(await client.POST("/api/materials", { body: { id, ...values, ...more } })));
      draft.reset();
      setOpen(false);
      setProblem(null);
    } catch (error) {
      const field = error instanceof Problem ? error.field : undefined;
      if (field && field in values) form.setFieldError(field, messageOf(error));
      setProblem(field && field in values ? null : messageOf(error));
    }
  });
  if (!open) {
    return (
      <Button variant="default" size="xs" mt="xs" onClick={() => setOpen(true)}>
        Another material …
      </Button>
    );
  }
  return (
    <form className={css.add} onSubmit={add}>
      <Restored draft={draft} />
      <TextInput label="Maker" {...form.getInputProps("maker")} required />
      <TextInput label="Product" {...form.getInputProps("product")} required />
      <TextInput label="Base polymer" {...form.getInputProps("polymer")} required />
      <TextInput label="Filler" {...form.getInputProps("filler")} placeholder="none" />
      <TextInput label="Share, % by mass" {...form.getInputProps("filler_share")} />
      <TextInput label="Colour" {...form.getInputProps("colour")} required />
      <ColorInput label="as on the spool" {...form.getInputProps("hex")} format="hex" eyeDropperButtonProps={{ "aria-label": "take the colour from the screen" }} />
      <div style={{ display: "flex", gap: 8, alignItems: "end" }}>
        <Button type="submit">Add</Button>
        <Button variant="subtle" onClick={() => setOpen(false)}>
          Cancel
        </Button>
      </div>
      <Refusal text={problem} />
    </form>
  );
}
