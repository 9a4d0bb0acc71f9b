import { Button, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { dossierOptions, materialsOptions, refreshStock } from "../../api/queries/stock";
import { Picker } from "../../ui/Picker";
import { onDay } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import css from "./parts.module.css";

type Dossier = Schemas["Dossier"];

const HOW: Record<Schemas["RelatedProduct"]["how"], string> = { succeeds: "takes the place of", "succeeded by": "its place was taken by", "derived from": "derived from", "base of": "what was derived from it:" };

/** What became of the product, and which others it has to do with: alike for all its colours. */
export function ProductPanel({ d }: { d: Dossier }) {
  const [editing, setEditing] = useState(false);
  const m = d.material;
  return (
    <section className={css.panel} aria-label="The product">
      <h2>The product</h2>
      {!m.withdrawn_on && !d.related.length && !editing && <p className={`soft ${css.small}`}>Sold, and tied to no other product.</p>}
      {m.withdrawn_on && (
        <p>
          <strong>Withdrawn</strong> by its maker since {onDay(m.withdrawn_on)}.
        </p>
      )}
      {d.related.map((r) => (
        <p key={r.how + r.id}>
          <span className="soft">{HOW[r.how]}</span>{" "}
          <Link to="/stock/materials/$materialId" params={{ materialId: r.id }}>
            {r.maker} {r.product}
          </Link>
        </p>
      ))}
      {editing ? (
        <ProductForm d={d} onDone={() => setEditing(false)} />
      ) : (
        <Button size="xs" variant="default" onClick={() => setEditing(true)}>
          Withdrawn, a successor, derived from another …
        </Button>
      )}
    </section>
  );
}

function ProductForm({ d, onDone }: { d: Dossier; onDone: () => void }) {
  const m = d.material;
  const linked = (how: Schemas["RelatedProduct"]["how"]) => d.related.find((r) => r.how === how)?.id ?? null;
  const [withdrawn, setWithdrawn] = useState(m.withdrawn_on ?? "");
  const [succeeds, setSucceeds] = useState(linked("succeeds"));
  const [base, setBase] = useState(linked("derived from"));
  const [problem, setProblem] = useState<string | null>(null);
  const materials = useQuery(materialsOptions());
  const queries = useQueryClient();
  const others = productsOf(materials.data?.items ?? [], m, [succeeds, base]);
  const save = async () => {
    try {
      const body = { withdrawn_on: withdrawn || null, succeeds_id: succeeds, base_id: base };
      const kept = unwrap<Dossier>(await client.PATCH("/api/materials/{material_id}/product", { params: { path: { material_id: m.id }, header: { "if-match": `"${String(m.revision)}"` } }, body }));
      queries.setQueryData(dossierOptions(m.id).queryKey, kept);
      refreshStock(queries);
      onDone();
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  return (
    <form
      className={css.product}
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <div className={css.productFields}>
        <TextInput type="date" label="Withdrawn since" value={withdrawn} onChange={(e) => setWithdrawn(e.currentTarget.value)} />
      <Picker label="Takes the place of" placeholder="no other" clearable data={others} value={succeeds} onChange={setSucceeds} />
      <Picker label="Derived from" placeholder="no other" clearable data={others} value={base} onChange={setBase} />
      </div>
      <Refusal text={problem} />
      <div style={{ display: "flex", gap: 8 }}>
        <Button type="submit" size="xs">
          Save
        </Button>
        <Button size="xs" variant="subtle" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  );
}

/** Every other product once, by the colour that is chosen already or its first one. */
function productsOf(all: readonly Schemas["MaterialView"][], own: { maker: string; product: string }, chosen: readonly (string | null)[]) {
  const named = (m: { maker: string; product: string }) => `${m.maker} ${m.product}`;
  const byName = new Map<string, string>();
  for (const m of all) if (!byName.has(named(m)) || chosen.includes(m.id)) byName.set(named(m), m.id);
  byName.delete(named(own));
  return [...byName].map(([label, value]) => ({ value, label }));
}
