import { Button, Checkbox, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useSearch } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { placesOptions, preferencesOptions } from "../../api/queries/stock";
import { Empty, ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { Swatch } from "../../ui/Swatch";
import css from "./labels.module.css";

/** Sheets of labels: three across and nine down on A4, as many as are ticked. */
const PER_SHEET = 27;

/** Labels to be printed: code, swatch, and a QR code that leads to the spool's page. */
export function LabelsPage() {
  const { code } = useSearch({ from: "/stock/labels" });
  const places = useQuery(placesOptions());
  const preferences = useQuery(preferencesOptions());
  const [chosen, setChosen] = useState<string[] | null>(code ? [code] : null);
  if (places.isPending || preferences.isPending) return <Waiting what="Fetching the labels …" />;
  if (places.isError) return <ErrorNote error={places.error} again={() => void places.refetch()} />;
  if (preferences.isError) return <ErrorNote error={preferences.error} />;
  const spools = places.data.items.flatMap((p) => p.spools).sort((a, b) => a.code.localeCompare(b.code));
  if (!spools.length) return <Empty title="No spool at hand">Labels are for spools: <Link to="/stock/intake">take one in</Link> first.</Empty>;
  const codes = chosen ?? spools.map((s) => s.code);
  const sheets = Array.from({ length: Math.ceil(codes.length / PER_SHEET) }, (_, i) => codes.slice(i * PER_SHEET, (i + 1) * PER_SHEET));
  const toggle = (c: string) => setChosen(codes.includes(c) ? codes.filter((x) => x !== c) : [...codes, c]);
  return (
    <div className={css.page}>
      <aside className={css.side}>
        <div className={css.head}>
          <Link to="/stock" className="soft">
            Stock
          </Link>
          <h1>Labels</h1>
        </div>
        <BaseUrl preferences={preferences.data} />
        <div className={css.tools}>
          <Button onClick={() => window.print()} disabled={!codes.length}>
            Print {codes.length} {codes.length === 1 ? "label" : "labels"}
          </Button>
          <Button variant="subtle" onClick={() => setChosen(codes.length ? [] : null)}>
            {codes.length ? "None" : "All"}
          </Button>
        </div>
        <ul className={css.list}>
          {spools.map((s) => (
            <li key={s.id}>
              <Checkbox
                checked={codes.includes(s.code)}
                onChange={() => toggle(s.code)}
                label={
                  <span className={css.row}>
                    <Swatch hex={s.material.hex} mark={s.material.mark} filled={s.material.filler !== null} size={22} />
                    <span className="figure">{s.code}</span> {s.material.maker} {s.material.product}, {s.material.colour}
                  </span>
                }
              />
            </li>
          ))}
        </ul>
      </aside>
      <div className={css.sheets} aria-label="Sheets as they are printed" role="group" tabIndex={0}>
        {!sheets.length && <p className="soft">No label is chosen.</p>}
        {sheets.map((sheet, i) => (
          <div key={i} className={css.sheet}>
            {sheet.map((c) => (
              <img key={c} src={`/api/labels/${c}.svg?v=${encodeURIComponent(preferences.data.label_base_url)}`} alt={`Label of ${c}`} className={css.label} />
            ))}
          </div>
        ))}
      </div>
    </div>
  );
}

function BaseUrl({ preferences }: { preferences: Schemas["Preferences"] }) {
  const [value, setValue] = useState(preferences.label_base_url);
  const [problem, setProblem] = useState<string | null>(null);
  const queries = useQueryClient();
  const save = async () => {
    try {
      const kept = unwrap<Schemas["Preferences"]>(await client.PUT("/api/preferences", { body: { label_base_url: value } }));
      queries.setQueryData(preferencesOptions().queryKey, kept);
      setProblem(null);
    } catch (error) {
      setProblem(/pattern/i.test(messageOf(error)) ? "Write it with its scheme, as a browser shows it, without ? and #." : messageOf(error));
    }
  };
  return (
    <form
      className={css.base}
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <TextInput label="Address in the QR codes" description="how a phone in the workshop reaches this notebook" value={value} onChange={(e) => setValue(e.currentTarget.value)} error={problem} />
      <Button type="submit" variant="default" disabled={value.replace(/\/$/, "") === preferences.label_base_url}>
        Set
      </Button>
      <Refusal tone="caution" text={/^https?:\/\/(127\.|localhost|\[::1\])/.test(value) ? "This address reaches the notebook from this computer alone: a phone needs the one it has in the workshop's network." : null} />
    </form>
  );
}
