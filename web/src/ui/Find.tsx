import { Modal, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../api/client";
import { purposesOptions } from "../api/queries/choose";
import { materialsOptions } from "../api/queries/stock";
import { studiesOptions } from "../api/queries/studies";
import css from "./Find.module.css";
import { looksLikeCode } from "./useScan";

interface Target {
  label: string;
  hint: string;
  go: () => void;
}

/** Everything that can be gone to: areas, things to do, and what is in the notebook. */
function useTargets(open: boolean): Target[] {
  const navigate = useNavigate();
  const studies = useQuery({ ...studiesOptions(), enabled: open });
  const purposes = useQuery({ ...purposesOptions(), enabled: open });
  const materials = useQuery({ ...materialsOptions(), enabled: open });
  return [
    { label: "Day sheet", hint: "area", go: () => void navigate({ to: "/" }) },
    { label: "Stock", hint: "area", go: () => void navigate({ to: "/stock" }) },
    { label: "Studies", hint: "area", go: () => void navigate({ to: "/studies" }) },
    { label: "Bench", hint: "area", go: () => void navigate({ to: "/bench" }) },
    { label: "Rigs & methods", hint: "area", go: () => void navigate({ to: "/rigs" }) },
    { label: "Choose", hint: "area", go: () => void navigate({ to: "/choose" }) },
    { label: "New study", hint: "do", go: () => void navigate({ to: "/studies/new" }) },
    { label: "Rounds over the racks", hint: "do", go: () => void navigate({ to: "/bench/racks" }) },
    { label: "Add a rig", hint: "do", go: () => void navigate({ to: "/rigs/new" }) },
    { label: "Take in a spool", hint: "do", go: () => void navigate({ to: "/stock/intake" }) },
    { label: "Drying and storage", hint: "do", go: () => void navigate({ to: "/stock/drying" }) },
    { label: "New material", hint: "do", go: () => void navigate({ to: "/stock/new" }) },
    { label: "Lists in and out", hint: "do", go: () => void navigate({ to: "/stock/lists" }) },
    { label: "Labels", hint: "do", go: () => void navigate({ to: "/stock/labels" }) },
    ...(materials.data?.items ?? []).map((m) => ({
      label: `${m.maker} ${m.product}, ${m.colour}`,
      hint: "material",
      go: () => void navigate({ to: "/stock/materials/$materialId", params: { materialId: m.id } }),
    })),
    ...(studies.data?.items ?? []).map((s) => ({ label: s.title, hint: "study", go: () => void navigate({ to: "/studies/$studyId/board", params: { studyId: s.id } }) })),
    ...(purposes.data?.items ?? []).map((p) => ({ label: p.title, hint: "purpose", go: () => void navigate({ to: "/choose", search: { purpose: p.id } }) })),
  ];
}

/** Find a study, a material, a purpose or a code, or go somewhere, without leaving the keyboard. */
export function Find({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const [problem, setProblem] = useState<string | null>(null);
  const navigate = useNavigate();
  const all = useTargets(open);
  const close = () => {
    setText("");
    setAt(0);
    setProblem(null);
    onClose();
  };
  const mayBeCode = looksLikeCode(text);
  const found = all.filter((t) => t.label.toLowerCase().includes(text.trim().toLowerCase()));
  const byCode = async () => {
    try {
      // a wrong code is told here; a right one opens what it stands for
      const code = unwrap<Schemas["CodeView"]>(await client.GET("/api/codes", { params: { query: { text } } }));
      close();
      await navigate({ to: "/c/$code", params: { code: code.code } });
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const act = (target: Target | undefined) => {
    if (target) {
      close();
      target.go();
    } else if (mayBeCode) void byCode();
  };
  return (
    <Modal opened={open} onClose={close} title="Find or do" size="lg">
      <TextInput
        aria-label="Find a study, a material, a purpose or a code"
        placeholder="a study, a material, a code …"
        value={text}
        data-autofocus
        error={problem}
        onChange={(e) => {
          setText(e.currentTarget.value);
          setAt(0);
          setProblem(null);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") setAt(Math.min(at + 1, found.length - 1));
          else if (e.key === "ArrowUp") setAt(Math.max(at - 1, 0));
          else if (e.key === "Enter") act(found[at]);
          else return;
          e.preventDefault();
        }}
      />
      <ul className={css.list}>
        {found.slice(0, 10).map((target, i) => (
          <li key={target.hint + target.label}>
            <button type="button" className={css.item} data-at={i === at || undefined} onClick={() => act(target)}>
              {target.label} <span className="soft">{target.hint}</span>
            </button>
          </li>
        ))}
        {mayBeCode && (
          <li>
            <button type="button" className={css.item} data-at={!found.length || undefined} onClick={() => void byCode()}>
              Specimen, spool or rig <span className="figure">{text.trim().toUpperCase()}</span> <span className="soft">code</span>
            </button>
          </li>
        )}
        {!found.length && !mayBeCode && <li className="soft">Nothing of that name.</li>}
      </ul>
    </Modal>
  );
}
