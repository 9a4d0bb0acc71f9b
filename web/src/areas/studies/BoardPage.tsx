import { Button, SegmentedControl } from "@mantine/core";
import { useLocalStorage, useViewportSize } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useRef } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { boardOptions, doubtsOptions, studyOptions } from "../../api/queries/studies";
import { TakeTable } from "../../figures/FigureFrame";
import { BoardCell } from "../../figures/BoardCell";
import { BoardInterval, BoardMark } from "../../figures/BoardMark";
import { domainWith, scale } from "../../figures/scale";
import { boundSign, figure, interval, tickLabel, ticks } from "../../ui/format";
import { doubtKinds, doubtsAbout, unsettled } from "../../ui/doubts";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { ArmName, ArmSwatch, armWords } from "../../ui/Swatch";
import { useNow } from "../../ui/useNow";
import { Problems, problemsOf } from "../../ui/Problems";
import { VerdictLegend, VerdictMark } from "../../ui/Verdict";
import { StudyHead } from "./StudyHead";
import { boardRows } from "./tables";
import { columnWidth, fitting, nearer, rowHeight, stageWords, type Zoom, ZOOMS } from "./zoom";
import { Amended, Grow } from "./BoardUnder";
import { VerdictNote } from "./Margins";
import css from "./studies.module.css";
import { useGrid } from "./useGrid";
import { isLate } from "./wanted";
import { verdictWords, groupWords, verdictOf } from "./words";
import { shownUnit } from "../../ui/units";

const ARM = 268;
/** On a phone the swatch alone stands beside the cells: its panel says whose it is. */
const ARM_NARROW = 44;
const PHONE = 700;

export function BoardPage() {
  const { studyId } = useParams({ from: "/studies/$studyId/board" });
  const study = useQuery(studyOptions(studyId));
  const board = useQuery(boardOptions(studyId));
  const doubts = useQuery({ ...doubtsOptions(studyId, board.data?.revision ?? 0), enabled: board.isSuccess });
  if (study.isError || board.isError) return <ErrorNote error={study.error ?? board.error} again={() => void board.refetch()} />;
  if (study.isPending || board.isPending) return <Waiting what="Reading the board …" />;
  return (
    <div className="page">
      <StudyHead study={study.data} />
      <Problems problems={board.data.problems.map((p) => p.text)} />
      {/* what prevents an answer stands above already */}
      <Board study={study.data} columns={board.data.columns} problems={board.data.problems} doubts={(doubts.data?.doubts ?? []).filter((d) => d.test_id !== null)} />
    </div>
  );
}

interface BoardProps {
  study: Schemas["StudyView"];
  columns: Schemas["EvidenceView"][];
  problems: readonly Schemas["ProblemView"][];
  doubts: readonly Schemas["DoubtView"][];
}

function Board({ study, columns, problems, doubts }: BoardProps) {
  const { width: viewport } = useViewportSize();
  const body = useRef<HTMLTableSectionElement>(null);
  const [chosenZoom, setZoom] = useLocalStorage<Zoom | null>({ key: `assayer.zoom.${study.id}`, defaultValue: null, getInitialValueInEffect: false });
  const zoom = chosenZoom ?? fitting(study.arms.length, columns.length);
  const walk = useGrid(study, columns, body, (step) => setZoom(nearer(zoom, step)));
  const late = isLate(study.wanted_by, useNow());
  const narrow = (viewport || 1280) <= PHONE;
  const atSide = columns.length <= 4 && !narrow;
  const free = Math.min(1600, viewport || 1280) - 46 - (narrow ? ARM_NARROW : ARM) - (atSide ? 300 : 0);
  const width = columnWidth(zoom, free, columns.length);
  const [row, column] = walk.at;
  const [cell, arm, chosen] = [columns[column]?.cells[row], study.arms[row], columns[column]];
  const about = cell && arm && chosen && <About study={study} arm={arm} cell={cell} column={chosen} problems={problemsOf(problems, arm.id)} doubts={doubtsAbout(doubts, arm.id, chosen.test_id)} atSide={atSide} />;
  return (
    <>
      <div className={css.boardArea}>
        <div className={css.scroller} data-tall={study.arms.length > 8 ? zoom : undefined}>
          <table className={css.board} role="grid" aria-label={`Board of ${study.title}`} data-zoom={zoom}>
            <Heads study={study} columns={columns} width={width} zoom={zoom} />
            <tbody ref={body}>
              {study.arms.map((a, r) => (
                <tr key={a.id} style={{ height: rowHeight(zoom, study.arms.length) }}>
                  <th scope="row" className={css.armHead}>
                    {zoom === "all" ? <ArmName arm={a} note={a.id === study.reference_arm_id ? "reference" : undefined} /> : <ArmLine arm={a} reference={a.id === study.reference_arm_id} size={rowHeight(zoom, study.arms.length) - 4} />}
                  </th>
                  {columns.map((c, i) => (
                    <Cell key={c.test_id} study={study} arm={a} column={c} row={r} index={i} width={width} walk={walk} zoom={zoom} late={late} problems={problemsOf(problems, a.id)} doubts={doubtKinds(doubtsAbout(doubts, a.id, c.test_id))} />
                  ))}
                </tr>
              ))}
            </tbody>
            {zoom !== "marks" && <tfoot>
              <tr>
                <td />
                {columns.map((c) => (
                  <td key={c.test_id}>
                    <Axis study={study} column={c} width={width} />
                  </td>
                ))}
              </tr>
            </tfoot>}
          </table>
        </div>
        {atSide && about}
      </div>
      <div className={css.under}>
        <VerdictLegend problems={problems.length > 0} doubts={unsettled(doubts).length > 0} />
        <SegmentedControl aria-label="How close" size="xs" value={zoom} onChange={(v) => setZoom(ZOOMS.find((z) => z === v) ?? null)} data={[...ZOOMS]} title="+ and − on the board" />
        <Grow study={study} />
        <TakeTable name="board" about={{ kind: "study", name: study.title }} rows={() => boardRows(study, columns, problems, doubts)} />
      </div>
      {!atSide && about}
      <Amended study={study} late={late} />
    </>
  );
}

/** A material in one line, for a board that is looked at from far. */
function ArmLine({ arm, reference, size }: { arm: Schemas["ArmView"]; reference: boolean; size: number }) {
  const words = [arm.material.colour, armWords(arm), reference && "reference"].filter(Boolean).join(" · ");
  return (
    <div className={css.armLine} style={size < 16 ? { fontSize: "0.76rem", lineHeight: 1 } : undefined} title={`${arm.material.maker} ${arm.material.product}, ${words}`}>
      <ArmSwatch arm={arm} size={Math.min(26, size)} />
      <span>
        {arm.material.product} <span className="soft">{words}</span>
      </span>
    </div>
  );
}

function Heads({ study, columns, width, zoom }: Omit<BoardProps, "problems" | "doubts"> & { width: number; zoom: Zoom }) {
  return (
    <thead>
      <tr>
        <th className={css.armHead} style={{ borderTop: "none" }}>
          <span className="visually-hidden">Material</span>
        </th>
        {columns.map((column) => (
          <th key={column.test_id} scope="col" style={{ width, minWidth: width }}>
            <Link className={css.test} to="/studies/$studyId/findings" params={{ studyId: study.id }} search={{ test: column.test_id }} title={`${column.label}, ${column.orientation}: ${column.quantity_label}, ${shownUnit(column.unit).unit}`}>
              {column.label}
              {zoom === "marks" && <span className="soft">, {column.orientation}</span>}
            </Link>
            {zoom !== "marks" && (
              <span className="soft" style={{ fontSize: "0.8rem", lineHeight: 1.25, display: "block" }}>
                {column.orientation}, {column.quantity_label}, {shownUnit(column.unit).unit}
              </span>
            )}
          </th>
        ))}
      </tr>
    </thead>
  );
}

interface CellProps {
  study: Schemas["StudyView"];
  arm: Schemas["ArmView"];
  column: Schemas["EvidenceView"];
  row: number;
  index: number;
  width: number;
  walk: ReturnType<typeof useGrid>;
  zoom: Zoom;
  late: boolean;
  problems: readonly string[];
  /** What is unsettled about its specimens; empty: nothing. */
  doubts: string;
}

function Cell({ study, arm, column, row, index, width, walk, zoom, late, problems, doubts }: CellProps) {
  const cell = column.cells[row];
  if (!cell) return <td />;
  const verdict = verdictOf(cell, arm.id === study.reference_arm_id);
  const doubtful = problems.length > 0 && cell.verdict !== null && verdict !== "no verdict";
  const here = walk.at[0] === row && walk.at[1] === index;
  const size = { cell, verdict, late, width: width - 2, height: rowHeight(zoom, study.arms.length) - 2 };
  const scaled = () => ({ ...size, at: columnScale(study, column, width), reference: referenceMean(study, column), margin: column.margin });
  return (
    <td
      role="gridcell"
      className={css.cell}
      data-at={`${row}-${index}`}
      data-chosen={here || undefined}
      tabIndex={here ? 0 : -1}
      onClick={() => walk.focus(row, index)}
      onDoubleClick={() => walk.open(row, index)}
      onKeyDown={(e) => walk.onKey(e, row, index)}
    >
      <span className="visually-hidden">
        {cellWords(arm, column, cell, verdict, late)}
        {doubtful && `; ${problems.join("; ")}`}
        {doubts && `; in doubt: ${doubts}`}
      </span>
      {(doubtful || doubts) && (
        <span className={css.problem} title={[...(doubtful ? problems : []), ...(doubts ? [doubts] : [])].join("; ")} aria-hidden="true">
          {doubtful && "!"}
          {doubts && "?"}
        </span>
      )}
      {zoom === "marks" ? <BoardMark {...size} /> : zoom === "intervals" ? <BoardInterval {...scaled()} /> : <BoardCell {...scaled()} shown={shownUnit(column.unit)} treatment={arm.treatment !== ""} />}
    </td>
  );
}

function referenceMean(study: Schemas["StudyView"], column: Schemas["EvidenceView"]): number | null {
  return column.cells.find((c) => c.arm_id === study.reference_arm_id)?.group?.mean ?? null;
}

function columnScale(study: Schemas["StudyView"], column: Schemas["EvidenceView"], width: number) {
  const centre = referenceMean(study, column);
  const band = centre !== null && column.margin !== null ? [centre - column.margin, centre + column.margin] : [];
  const values = column.cells.flatMap((c) => [...c.dots.flatMap((d) => (d.value === null ? [] : [d.value])), ...(c.group ? [c.group.mean] : [])]);
  const intervals = column.cells.flatMap((c) => (c.group?.ci95 ? [c.group.ci95] : []));
  return scale(domainWith([...values, ...band], intervals, 0.03), 14, width - 18);
}

function Axis({ study, column, width }: { study: Schemas["StudyView"]; column: Schemas["EvidenceView"]; width: number }) {
  if (!column.cells.some((c) => c.tested)) return null;
  const at = columnScale(study, column, width);
  const shown = shownUnit(column.unit);
  const place = (t: number) => at(shown.back(t));
  const all = ticks(...shown.ends(at.domain), Math.max(2, width / 75));
  const marks = apart(all, place, Math.max(...all.map((t) => tickLabel(t, all).length)) * 7 + 8);
  return (
    <svg width={width} height={20} className={css.axis} aria-hidden="true">
      {marks.map((t) => (
        <g key={t}>
          <line x1={place(t)} x2={place(t)} y1={0} y2={4} stroke="var(--soft)" />
          <text x={place(t)} y={16} textAnchor="middle" fontSize="11" fontFamily="var(--mono)" fill="var(--soft)">
            {tickLabel(t, marks)}
          </text>
        </g>
      ))}
    </svg>
  );
}

/** Every tick, every second or fourth, so that their figures stand clear of one another; at least two. */
function apart(marks: readonly number[], at: (t: number) => number, room: number): readonly number[] {
  const [first, second] = marks;
  if (marks.length < 3 || first === undefined || second === undefined || at(second) - at(first) >= room) return marks;
  return apart(marks.length === 3 ? [first, marks[2] ?? second] : marks.filter((_, i) => i % 2 === 0), at, room);
}

function cellWords(arm: Schemas["ArmView"], column: Schemas["EvidenceView"], cell: Schemas["CellView"], verdict: string | null, late: boolean): string {
  const what = `${arm.material.maker} ${arm.material.product}, ${column.label} ${column.orientation}`;
  const stage = stageWords(cell, arm.treatment !== "", late);
  if (!cell.group) return `${what}: ${stage}`;
  return `${what}: ${stage}, ${groupWords(cell.group, column.unit)}, ${verdict ?? "no verdict"}`;
}

interface AboutProps {
  study: Schemas["StudyView"];
  arm: Schemas["ArmView"];
  cell: Schemas["CellView"];
  column: Schemas["EvidenceView"];
  problems: readonly string[];
  atSide: boolean;
  doubts: readonly Schemas["DoubtView"][];
}

/** The chosen cell in words, and where to go from it. */
function About({ study, arm, cell, column, problems, doubts, atSide }: AboutProps) {
  const now = useNow();
  const reference = study.arms.find((a) => a.id === study.reference_arm_id);
  const isReference = arm.id === study.reference_arm_id;
  const verdict = verdictOf(cell, isReference);
  const preventing = cell.verdict && verdict !== "no verdict" ? problems : [];
  return (
    <aside className={`${css.about} ${atSide ? css.side : css.strip}`} aria-live="polite" aria-label="The chosen cell">
      <strong>
        {arm.mark} × {column.label}
      </strong>
      <Value cell={cell} unit={column.unit} large={atSide} stage={stageWords(cell, arm.treatment !== "", isLate(study.wanted_by, now))} />
      {verdict && (
        <span>
          {verdict === "reference" ? <VerdictMark verdict="reference" /> : cell.verdict && reference ? <>
            <VerdictMark verdict={verdict} label={false} /> {verdictWords(cell.verdict, reference.mark, column.unit)}
          </> : null}
        </span>
      )}
      {cell.derived.map((d) => (
        <span key={d.name}>
          {d.label} {d.bound === "at_least" ? "≥ " : d.bound === "at_most" ? "≤ " : ""}
          <span className="figure">{figure(d.ratio, d.ci95)}</span>
          {d.ci95 && (
            <>
              {" "}
              <span className="soft figure">({interval(d.ci95)})</span>
            </>
          )}
        </span>
      ))}
      <Problems problems={preventing} />
      {doubts.length > 0 && (
        <p className={css.notes} style={{ color: "var(--caution)" }}>
          <strong>In doubt:</strong> {doubtKinds(doubts)}{" "}
          <Link to="/studies/$studyId/findings" params={{ studyId: study.id }} search={{ test: column.test_id }}>
            decide
          </Link>
        </p>
      )}
      {[...(cell.verdict?.notes ?? []), ...cell.notes].map((note) => (
        <p key={note} className={css.notes}>
          <VerdictNote studyId={study.id} testId={column.test_id} note={note} />
        </p>
      ))}
      {atSide && !cell.verdict && cell.group && cell.batches === 1 && <span className="soft">one print batch: valid for these prints</span>}
      <Ways study={study} arm={arm} testId={column.test_id} tested={cell.tested > 0} atSide={atSide} />
    </aside>
  );
}

/** The mean with its interval, or how far the tests have come. */
function Value({ cell, unit, large, stage }: { cell: Schemas["CellView"]; unit: string; large: boolean; stage: string }) {
  const shown = shownUnit(unit);
  if (!cell.group) {
    return <span>{stage}</span>;
  }
  if (!large) return <span className="figure">{groupWords(cell.group, unit)}</span>;
  return (
    <span>
      <span className="figure" style={{ fontSize: "1.7rem", fontWeight: 700 }}>
        {boundSign(cell.group)}
        {figure(shown.at(cell.group.mean), cell.group.ci95 ? shown.ends(cell.group.ci95) : null)}
      </span>{" "}
      {shown.unit}
      <span style={{ display: "block" }} className="soft">
        {cell.group.ci95 ? (
          <>
            95 % interval <span className="figure">{interval(shown.ends(cell.group.ci95))}</span>
          </>
        ) : (
          "one value: no interval"
        )}
        , <span style={{ whiteSpace: "nowrap" }}>n {cell.group.n}</span>
      </span>
    </span>
  );
}

interface WaysProps {
  study: Schemas["StudyView"];
  arm: Schemas["ArmView"];
  testId: string;
  tested: boolean;
  atSide: boolean;
}

/** Where to go from the chosen cell. */
function Ways({ study, arm, testId, tested, atSide }: WaysProps) {
  const queries = useQueryClient();
  const makeReference = async () => {
    unwrap<Schemas["StudyView"]>(
      await client.PUT("/api/studies/{study_id}/reference", {
        params: { path: { study_id: study.id }, header: { "if-match": `"${study.revision}"` } },
        body: { reference_arm_id: arm.id },
      }),
    );
    await queries.invalidateQueries();
  };
  return (
    <span style={{ marginLeft: atSide ? 0 : "auto", display: "flex", gap: 8, flexWrap: "wrap", marginTop: atSide ? 6 : 0 }}>
      {tested && (
        <Button size="xs" variant="default" renderRoot={(props) => <Link {...props} to="/studies/$studyId/findings" params={{ studyId: study.id }} search={{ test: testId }} />}>
          Curves <kbd style={{ marginLeft: 6 }}>Enter</kbd>
        </Button>
      )}
      <Button size="xs" variant="default" renderRoot={(props) => <Link {...props} to="/bench" search={{ test: testId }} />}>
        Bench <kbd style={{ marginLeft: 6 }}>B</kbd>
      </Button>
      {arm.id !== study.reference_arm_id && (
        <Button size="xs" variant="subtle" onClick={() => void makeReference()}>
          Take as reference
        </Button>
      )}
    </span>
  );
}
