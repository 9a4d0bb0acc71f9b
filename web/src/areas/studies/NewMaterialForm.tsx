import { Button, ColorInput, TextInput } from "@mantine/core";
import { useState } from "react";

import { client, messageOf, Problem, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import css from "./new.module.css";

/** The few words that a material needs to be planned with; the rest is asked when its bag is opened. */
export function NewMaterialForm({ onAdded }: { onAdded: (m: Schemas["MaterialView"]) => void }) {
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
