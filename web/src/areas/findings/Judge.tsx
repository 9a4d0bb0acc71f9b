import { Button, Select, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { declarationsOptions } from "../../api/queries/rigs";
import css from "./specimen.module.css";

type Run = Schemas["RunView"];

interface JudgeProps {
  run: Run;
  test: Schemas["TestView"];
  onEdit: (body: Schemas["RunEdit"]) => void;
  onTakeBack: () => void;
}

export function Judge({ run, test, onEdit, onTakeBack }: JudgeProps) {
  const declared = useQuery(declarationsOptions());
  const [reason, setReason] = useState<string | null>(null);
  const [words, setWords] = useState("");
  const choose = (value: string | null) => {
    setReason(value);
    if (value && value !== "other") onEdit({ validity: "left_out", validity_reason: value });
  };
  return (
    <div className={css.judge}>
      <div>
        <strong>{run.validity === "counts" ? "Counts" : run.validity === "left_out" ? "Left out" : run.validity === "at_least" ? "Counts as at least" : "Counts as at most"}</strong>
        {run.validity_reason && ` · ${run.validity_reason}`}
        {run.validity !== "counts" && run.validity_by && <span className="soft"> ({run.validity_by})</span>}
      </div>
      <Select
        label="How it ended"
        size="xs"
        w={200}
        value={run.outcome}
        onChange={(outcome) => outcome && onEdit({ outcome })}
        data={test.outcomes.map((o) => ({ value: o.name, label: o.label }))}
        placeholder="not noted"
      />
      {run.validity === "left_out" ? (
        <Button size="xs" variant="default" onClick={() => onEdit({ validity: "counts" })}>
          Let it count
        </Button>
      ) : (
        <Select label="Leave out because" size="xs" w={190} value={reason} onChange={choose} data={declared.data?.left_out_reasons ?? []} placeholder="choose a reason" />
      )}
      {run.validity !== "left_out" && reason === "other" && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            if (words.trim()) onEdit({ validity: "left_out", validity_reason: `other: ${words.trim()}` });
          }}
        >
          <TextInput label="Reason in words" size="xs" value={words} onChange={(e) => setWords(e.currentTarget.value)} maxLength={180} />
        </form>
      )}
      {run.validity === "at_least" || run.validity === "at_most" ? (
        <Button size="xs" variant="default" onClick={() => onEdit({ validity: "counts" })}>
          Count it as exact
        </Button>
      ) : null}
      <Button size="xs" variant="subtle" onClick={onTakeBack}>
        Take the entry back
      </Button>
    </div>
  );
}
