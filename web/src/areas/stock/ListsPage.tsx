import { Button, FileButton, SegmentedControl, Textarea } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type DragEvent, useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { refreshStock } from "../../api/queries/stock";
import { Refusal } from "../../ui/Notes";
import { Swatch } from "../../ui/Swatch";
import css from "./lists.module.css";

type Kind = "materials" | "claims" | "reported";
type Preview = Schemas["ImportPreview"];
type Row = Schemas["ImportRow"];
type Answer = Schemas["ImportAnswer"];

const KINDS: { value: Kind; label: string }[] = [
  { value: "materials", label: "Materials" },
  { value: "claims", label: "Makers' claims" },
  { value: "reported", label: "Reported results" },
];
const EXAMPLES: Record<Kind, string> = {
  materials: "Maker; Product; Polymer; Colour are needed. Known too: Filler, Filler %, Hex, Ø mm, Density, Price, Net g, Obtained, Nozzle, Bed, Chamber, Speed, Dry, Max flow, Nozzle min, Hardened, Enclosure, Fumes, Dust, Plate, Adhesive, Note.",
  claims: "Maker; Product; Claim are needed. Known too: Colour, Method, Source.",
  reported: "Maker; Product; Colour; Quantity; Value; Unit are needed. Known too: n, sd, Method, Source, Date. Kept as reported, never averaged with what is measured here.",
};
const STATE: Record<Row["state"], { sign: string; words: string; many: string }> = {
  new: { sign: "+", words: "goes in", many: "go in" },
  gaps: { sign: "⊕", words: "fills gaps", many: "fill gaps" },
  there: { sign: "=", words: "is there already", many: "are there already" },
  question: { sign: "?", words: "leaves a question", many: "leave a question" },
  error: { sign: "✕", words: "stays out", many: "stay out" },
};

/** A list as people keep it, looked through row by row before anything is taken in; and the same lists out. */
export function ListsPage() {
  const list = useList();
  const { kind, preview, readFile } = list;
  const onDrop = (e: DragEvent) => {
    e.preventDefault();
    void readFile(e.dataTransfer.files[0]);
  };
  return (
    <div className="page" onDragOver={(e) => e.preventDefault()} onDrop={onDrop}>
      <div className={css.head}>
        <Link to="/stock" className="soft">
          Stock
        </Link>
        <h1>Lists in and out</h1>
        <SegmentedControl aria-label="Which list" data={KINDS} value={kind} onChange={list.choose} />
        <span className={css.out}>
          Take along as CSV:{" "}
          {KINDS.map((k) => (
            <a key={k.value} href={`/api/exports/${k.value}.csv`} download>
              {k.label.toLowerCase()}
            </a>
          ))}
        </span>
      </div>
      <div className={css.entry}>
        <Textarea
          aria-label="The list"
          placeholder="Paste cells out of a spreadsheet, header row included, or drop a CSV file here"
          value={list.text}
          onChange={(e) => list.begin(e.currentTarget.value)}
          minRows={preview ? 3 : 8}
          maxRows={preview ? 4 : 16}
          autosize
          styles={{ input: { fontFamily: "var(--mono)", fontSize: "0.85rem", whiteSpace: "pre", overflowX: "auto" } }}
        />
        <div>
          <FileButton onChange={(f) => void readFile(f)} accept=".csv,.tsv,.txt,text/csv">
            {(props) => (
              <Button {...props} variant="default">
                Choose a file
              </Button>
            )}
          </FileButton>
        </div>
      </div>
      {!preview && <p className={css.hint}>{EXAMPLES[kind]} Decimal commas, units in cells, ranges such as 195–225 and currency signs are understood.</p>}
      <Refusal text={list.problem} />
      {preview && (
        <>
          <Counts preview={preview} kept={list.kept} busy={list.busy} onTake={() => void list.take()} />
          <div className={css.scroller}>
            <Rows preview={preview} taken={list.kept !== null} onAnswer={list.answer} />
          </div>
        </>
      )}
    </div>
  );
}

/** The list that was pasted, what the server reads in it, the answers to its questions, and taking it in. */
function useList() {
  const [kind, setKind] = useState<Kind>("materials");
  const [text, setText] = useState("");
  const [answers, setAnswers] = useState<Answer[]>([]);
  const [preview, setPreview] = useState<Preview | null>(null);
  const [kept, setKept] = useState<number | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const queries = useQueryClient();
  const attempt = async (act: () => Promise<void>) => {
    setBusy(true);
    try {
      await act();
      setProblem(null);
      return true;
    } catch (error) {
      setProblem(messageOf(error));
      return false;
    } finally {
      setBusy(false);
    }
  };
  const look = async (content: string, said: Answer[], which: Kind) => {
    const read = await attempt(async () => setPreview(unwrap<Preview>(await client.POST("/api/imports/preview", { body: { kind: which, text: content, answers: said } }))));
    if (!read) setPreview(null);
  };
  const begin = (content: string) => {
    setText(content);
    setAnswers([]);
    setKept(null);
    if (content.trim()) void look(content, [], kind);
    else setPreview(null);
  };
  const choose = (which: Kind) => {
    setKind(which);
    setAnswers([]);
    setKept(null);
    if (text.trim()) void look(text, [], which);
  };
  const answer = (row: number, field: string, raw: string) => {
    const said = [...answers.filter((a) => a.row !== row || a.field !== field), { row, field, raw }];
    setAnswers(said);
    void look(text, said, kind);
  };
  const take = () =>
    attempt(async () => {
      const done = unwrap<Schemas["ImportDone"]>(await client.POST("/api/imports", { body: { kind, text, answers } }));
      setKept(done.kept);
      setPreview(done);
      refreshStock(queries);
    });
  const readFile = async (file: File | null | undefined) => {
    if (!file) return;
    if (file.size > 1_900_000) setProblem("The file has more than 1.9 MB: import it in parts.");
    else begin(decode(await file.arrayBuffer()));
  };
  return { kind, text, preview, kept, problem, busy, begin, choose, answer, take, readFile };
}

/** How many rows go in, are there, or stay out; and taking them in. */
function Counts({ preview, kept, busy, onTake }: { preview: Preview; kept: number | null; busy: boolean; onTake: () => void }) {
  const { counts } = preview;
  const fresh = (counts["new"] ?? 0) + (counts["gaps"] ?? 0);
  return (
    <div className={css.bar}>
      {(Object.keys(STATE) as Row["state"][])
        .filter((s) => (counts[s] ?? 0) > 0)
        .map((s) => (
          <span key={s} className={css.count} data-state={s}>
            <strong className="figure">{counts[s]}</strong> {counts[s] === 1 ? STATE[s].words : STATE[s].many}
          </span>
        ))}
      {preview.unknown.length > 0 && <span className="soft">not read: {preview.unknown.join(", ")}</span>}
      <span style={{ flex: 1 }} />
      {kept !== null ? (
        <strong role="status">
          {kept} taken in. <Link to="/stock">To the stock</Link>
        </strong>
      ) : (
        <Button loading={busy} disabled={!fresh} onClick={onTake}>
          Take in {fresh} {fresh === 1 ? "row" : "rows"}
        </Button>
      )}
    </div>
  );
}

function Rows({ preview, taken, onAnswer }: { preview: Preview; taken: boolean; onAnswer: (row: number, field: string, raw: string) => void }) {
  const shown = preview.columns.filter((c) => preview.rows.some((r) => r.cells[c.field]) && c.field !== "hex");
  return (
    <table className={css.rows}>
      <thead>
        <tr>
          <th>Row</th>
          <th>
            <span className="visually-hidden">What becomes of it</span>
          </th>
          {preview.kind === "materials" && (
            <th>
              <span className="visually-hidden">Looks</span>
            </th>
          )}
          {shown.map((c) => (
            <th key={c.field}>{c.header}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {preview.rows.map((r) => (
          <RowLines key={r.row} r={r} shown={shown} material={preview.kind === "materials"} taken={taken} onAnswer={onAnswer} />
        ))}
      </tbody>
    </table>
  );
}

interface RowLinesProps {
  r: Row;
  shown: Schemas["ImportColumn"][];
  material: boolean;
  taken: boolean;
  onAnswer: (row: number, field: string, raw: string) => void;
}

function RowLines({ r, shown, material, taken, onAnswer }: RowLinesProps) {
  const wrong = new Set([...r.errors, ...r.questions].map((e) => e.field));
  const says = r.errors.length + r.questions.length > 0 || r.state === "gaps" || r.there?.includes(":") || (r.claims.length > 0 && r.state === "new");
  const mark = `${(r.cells["maker"] ?? "?").slice(0, 1).toUpperCase()}${(r.cells["colour"] ?? "?").slice(0, 1).toLowerCase()}`;
  const state = taken && (r.state === "new" || r.state === "gaps") ? "taken" : r.state;
  return (
    <>
      <tr data-state={state} data-row={r.row}>
        <td className="figure">{r.row}</td>
        <td className={css.sign} title={STATE[r.state].words}>
          <span aria-label={state === "taken" ? "taken in" : STATE[r.state].words} role="img">
            {state === "taken" ? "✓" : STATE[r.state].sign}
          </span>
        </td>
        {material && <td>{r.hex && <Swatch hex={r.hex} mark={mark} filled={r.filled} size={24} />}</td>}
        {shown.map((c) => (
          <td key={c.field} data-wrong={wrong.has(c.field) || undefined}>
            {r.cells[c.field]}
          </td>
        ))}
      </tr>
      {says && (
        <tr className={css.says} data-state={state}>
          <td colSpan={2} />
          <td colSpan={shown.length + 1}>
            {r.errors.map((e) => (
              <div key={e.text} className={css.error}>
                {e.text}
              </div>
            ))}
            {r.questions.map((q) => (
              <div key={q.key} className={css.question}>
                {q.text}
                {q.likely !== null && (
                  <Button size="compact-sm" onClick={() => onAnswer(r.row, q.field, q.likely ?? "")}>
                    Yes, {q.likely}
                  </Button>
                )}
                <Button size="compact-sm" variant="default" onClick={() => onAnswer(r.row, q.field, q.raw)}>
                  {q.raw} is right
                </Button>
              </div>
            ))}
            {(r.state === "gaps" || r.there?.includes(":")) && <div className="soft">{r.there}</div>}
            {r.claims.length > 0 && r.state === "new" && <div className="soft">{r.claims.length === 1 ? "claim" : "claims"}: {r.claims.map((c) => `“${c.text}”`).join(", ")}</div>}
          </td>
        </tr>
      )}
    </>
  );
}

/** Files of older spreadsheets are not always UTF-8. */
function decode(buffer: ArrayBuffer): string {
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(buffer);
  } catch {
    return new TextDecoder("windows-1252").decode(buffer);
  }
}
