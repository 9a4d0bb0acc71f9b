import { Modal, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type ReactNode, useEffect, useRef, useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../api/client";
import { foundOptions } from "../api/queries/day";
import css from "./Find.module.css";
import { looksLikeCode } from "./useScan";

/** More are found by another word. */
const SHOWN = 12;

interface Target {
  key: string;
  label: string;
  hint: string;
  go: () => void;
}

/** Every word stands somewhere in it, in whatever order. */
const holds = (label: string, words: string): boolean => words.toLowerCase().split(/\s+/).every((word) => label.toLowerCase().includes(word));

/** The areas and what can be done, which need no server. */
function usePlaces(): Target[] {
  const navigate = useNavigate();
  const place = (label: string, hint: string, to: string): Target => ({ key: to, label, hint, go: () => void navigate({ to }) });
  return [
    place("Day sheet", "area", "/"),
    place("Stock", "area", "/stock"),
    place("Dial-in", "area", "/dial-in"),
    place("Studies", "area", "/studies"),
    place("Bench", "area", "/bench"),
    place("Rigs & methods", "area", "/rigs"),
    place("Choose", "area", "/choose"),
    place("New study", "do", "/studies/new"),
    place("Rounds over racks and baths", "do", "/bench/racks"),
    place("Add a rig", "do", "/rigs/new"),
    place("Take in a spool", "do", "/stock/intake"),
    place("Drying and storage", "do", "/stock/drying"),
    place("New material", "do", "/stock/new"),
    place("Inspect or step a G-code file", "do", "/dial-in/gcode"),
    place("Printers, nozzles, bed surfaces", "do", "/dial-in/hardware"),
    place("Shapes of specimens, as solids and drawings", "do", "/rigs/shapes"),
    place("Parts of your own: take in an STL or 3MF file", "do", "/rigs/parts"),
    place("Lists in and out", "do", "/stock/lists"),
    place("Labels", "do", "/stock/labels"),
    place("Units shown: MPa or psi, mm or in, °C or °F", "do", "/units"),
    place("Backups and check", "do", "/safekeeping"),
    place("Kept in this browser", "do", "/unsent"),
  ];
}

/** Where something found leads. */
function useLead() {
  const navigate = useNavigate();
  return (found: Schemas["Found"]): void => {
    switch (found.kind) {
      case "material":
        return void navigate({ to: "/stock/materials/$materialId", params: { materialId: found.id } });
      case "spool":
        return void navigate({ to: "/stock/spools/$spoolId", params: { spoolId: found.id } });
      case "study":
        return void navigate({ to: "/studies/$studyId/board", params: { studyId: found.id } });
      case "purpose":
        return void navigate({ to: "/choose", search: { purpose: found.id } });
      case "rig":
        return void navigate({ to: "/rigs/$rigId", params: { rigId: found.id } });
      case "dial-in":
        return void navigate({ to: "/dial-in/$trailId", params: { trailId: found.id } });
      case "sheet":
        return void navigate({ to: "/dial-in/sheets/$sheetId", params: { sheetId: found.id } });
      case "printer":
        return void navigate({ to: "/dial-in/hardware" });
      case "method":
        return void navigate({ to: "/methods/$method", params: { method: found.id } });
      case "specimen":
        return void navigate({ to: "/c/$code", params: { code: found.code } });
    }
  };
}

/** What the words are found in, places first; `settled` once the notebook has answered these very words. */
function useFinds(text: string) {
  const places = usePlaces();
  const lead = useLead();
  const words = text.trim();
  const [asked] = useDebouncedValue(words, 90);
  const found = useQuery({ ...foundOptions(asked), enabled: asked.length > 0 });
  const target = (f: Schemas["Found"]): Target => ({ key: `${f.kind}-${f.id}`, label: f.label, hint: f.detail ? `${f.kind} · ${f.detail}` : f.kind, go: () => lead(f) });
  const here = places.filter((p) => !words || holds(p.label, words));
  const settled = words === asked && (!words || (found.data !== undefined && !found.isPlaceholderData));
  const items = words ? [...here, ...(found.data?.items ?? []).map(target)] : here;
  return { items, settled, here, target, error: found.error };
}

function useLatest<T>(value: T) {
  const latest = useRef(value);
  useEffect(() => {
    latest.current = value;
  }, [value]);
  return latest;
}

/** Find whatever has a name, a code, a lot or a place, or go somewhere, without leaving the keyboard. */
export function Find({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const [problem, setProblem] = useState<string | null>(null);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { items, settled, here, target, error } = useFinds(text);
  const close = () => {
    setText("");
    setAt(0);
    setProblem(null);
    onClose();
  };
  const typed = useLatest(text);
  const mayBeCode = looksLikeCode(text);
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
  const take = (chosen: Target) => {
    close();
    chosen.go();
  };
  /** Enter opens what is marked; typed faster than the notebook answers, it waits for the answer. */
  const act = async () => {
    const words = text.trim();
    const chosen = settled || at < here.length ? items[at] : undefined;
    if (chosen) return take(chosen);
    if (!words) return;
    try {
      const first = (await queries.fetchQuery(foundOptions(words))).items[0];
      // an answer that comes after Escape or another word opens nothing
      if (typed.current.trim() !== words) return;
      if (first) return take(target(first));
    } catch (why) {
      return setProblem(messageOf(why));
    }
    if (mayBeCode) await byCode();
  };
  return (
    <Modal opened={open} onClose={close} title="Find or do" size="lg">
      <TextInput
        aria-label="Find a material, a spool, a lot, a place, a study, a dial-in, a sheet, a printer, a rig, a method or a code"
        placeholder="some words: a material, a lot, a place, a code …"
        value={text}
        data-autofocus
        error={problem ?? (error ? messageOf(error) : null)}
        onChange={(e) => {
          setText(e.currentTarget.value);
          setAt(0);
          setProblem(null);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") setAt(Math.min(at + 1, Math.min(items.length, SHOWN) - 1));
          else if (e.key === "ArrowUp") setAt(Math.max(at - 1, 0));
          else if (e.key === "Enter") void act();
          else return;
          e.preventDefault();
        }}
      />
      <Targets items={items.slice(0, SHOWN)} at={at} settled={settled} onTake={take}>
        {mayBeCode && (
          <li>
            <button type="button" className={css.item} data-at={!items.length || undefined} onClick={() => void byCode()}>
              Specimen, spool or rig <span className="figure">{text.trim().toUpperCase()}</span> <span className="soft">code</span>
            </button>
          </li>
        )}
      </Targets>
    </Modal>
  );
}

interface TargetsProps {
  items: Target[];
  at: number;
  settled: boolean;
  onTake: (target: Target) => void;
  children: ReactNode;
}

function Targets({ items, at, settled, onTake, children }: TargetsProps) {
  return (
    <ul className={css.list}>
      {items.map((one, i) => (
        <li key={one.key}>
          <button type="button" className={css.item} data-at={i === at || undefined} onClick={() => onTake(one)}>
            {one.label} <span className="soft">{one.hint}</span>
          </button>
        </li>
      ))}
      {children}
      {!items.length && !children && <li className="soft">{settled ? "Nothing holds all of these words." : "Looking …"}</li>}
    </ul>
  );
}
