import { Button, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { refreshStock } from "../../api/queries/stock";
import { setting } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import { Questions } from "../../ui/Questions";
import { useAsking } from "../../ui/useAsking";
import css from "./drying.module.css";

interface CorrectMassProps {
  drying: Schemas["DryingView"];
  member: Schemas["DryingMember"];
  moment: "before" | "after";
}

/** What a spool weighed before or after a drying; pressed, another mass can be put in its place. */
export function CorrectMass({ drying, member, moment }: CorrectMassProps) {
  const queries = useQueryClient();
  const asking = useAsking();
  const [raw, setRaw] = useState<string | null>(null);
  const mass = member[moment];
  const words = mass === null ? `not weighed ${moment}` : `${setting(mass, "g")} ${moment}`;
  const save = (confirmed = asking.confirmed) =>
    asking.attempt(async () => {
      unwrap(await client.PUT("/api/dryings/{drying_id}/mass", { params: { path: { drying_id: drying.id }, header: { "if-match": `"${String(drying.revision)}"` } }, body: { spool_id: member.spool_id, moment, raw: raw ?? "", confirmed } }));
      setRaw(null);
      asking.reset();
      refreshStock(queries);
    });
  if (raw === null)
    return (
      <button type="button" className={css.mass} aria-label={`${words}, ${member.code}: correct it`} onClick={() => setRaw(mass === null ? "" : String(mass))}>
        {words}
      </button>
    );
  return (
    <form
      className={css.row}
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <TextInput size="xs" w={100} aria-label={`Mass ${moment} of ${member.code}, g`} inputMode="decimal" value={raw} autoFocus required onChange={(e) => setRaw(e.currentTarget.value)} />
      <Button size="xs" type="submit">
        Correct it
      </Button>
      <Button size="xs" variant="subtle" onClick={() => setRaw(null)}>
        Leave it
      </Button>
      <Refusal text={asking.problem?.text} />
      <Questions
        questions={asking.questions}
        onLikely={(q, likely) => {
          setRaw(likely);
          asking.drop(q);
        }}
        onConfirm={(q) => {
          const { keys, last } = asking.confirm(q);
          if (last) void save(keys);
        }}
      />
    </form>
  );
}
