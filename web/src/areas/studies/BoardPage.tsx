import { Button } from "@mantine/core";
import { useViewportSize } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useRef, useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { boardOptions, studyOptions } from "../../api/queries/studies";
import { BoardCell } from "../../figures/BoardCell";
import { domainOf, scale } from "../../figures/scale";
import { boundSign, figure, interval, shownUnit, tickLabel, ticks } from "../../ui/format";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { ArmName } from "../../ui/Swatch";
import { VerdictLegend, VerdictMark } from "../../ui/Verdict";
import { StudyHead } from "./StudyHead";
import css from "./studies.module.css";
import { verdictWords, groupWords, verdictOf } from "./words";

/** Few materials get more room each. */
const rowHeight = (arms: number) => (arms <= 6 ? 88 : 63);
const ARM = 268;

export function BoardPage() {
  const { studyId } = useParams({ from: "/studies/$studyId/board" });
  const study = useQuery(studyOptions(studyId));
  const board = useQuery(boardOptions(studyId));
  if (study.isError || board.isError) return <ErrorNote error={study.error ?? board.error} again={() => void board.refetch()} />;
  if (study.isPending || board.isPending) return <Waiting what="Reading the board …" />;
  return (
    <div className="page">
      <StudyHead study={study.data} />
      <Board study={study.data} columns={board.data.columns} />
    </div>
  );
}

function Board({ study, columns }: { study: Schemas["StudyView"]; columns: Schemas["EvidenceView"][] }) {
  const { width: viewport } = useViewportSize();
  const [at, setAt] = useState<[number, number]>([0, 0]);
  const body = useRef<HTMLTableSectionElement>(null);
  const navigate = useNavigate();
  const ROW = rowHeight(study.arms.length);
  const beside = columns.length <= 4;
  const free = Math.min(1600, viewport || 1280) - 46 - ARM - (beside ? 300 : 0);
  const width = Math.max(118, Math.min(330, Math.floor(free / Math.max(1, columns.length))));
  const chosen = columns[at[1]]?.cells[at[0]];
  const chosenArm = study.arms[at[0]];
  const chosenColumn = columns[at[1]];

  const open = (row: number, column: number) => {
    const cell = columns[column]?.cells[row];
    const test = columns[column]?.test_id;
    if (!cell || !test) return;
    if (cell.tested) void navigate({ to: "/studies/$studyId/findings", params: { studyId: study.id }, search: { test } });
    else void navigate({ to: "/bench", search: { test } });
  };
  const focus = (row: number, column: number) => {
    setAt([row, column]);
    body.current?.querySelector<HTMLElement>(`[data-at="${row}-${column}"]`)?.focus();
  };
  const onKey = (e: React.KeyboardEvent, row: number, column: number) => {
    const rows = study.arms.length;
    const moves: Record<string, [number, number]> = {
      ArrowUp: [Math.max(0, row - 1), column],
      ArrowDown: [Math.min(rows - 1, row + 1), column],
      ArrowLeft: [row, Math.max(0, column - 1)],
      ArrowRight: [row, Math.min(columns.length - 1, column + 1)],
      Home: [row, 0],
      End: [row, columns.length - 1],
      PageUp: [0, column],
      PageDown: [rows - 1, column],
    };
    const to = moves[e.key];
    if (to) focus(...to);
    else if (e.key === "Enter") open(row, column);
    else if (e.key === "b" || e.key === "B") void navigate({ to: "/bench", search: { test: columns[column]?.test_id } });
    else return;
    e.preventDefault();
  };

  const about = chosen && chosenArm && chosenColumn && <About study={study} arm={chosenArm} cell={chosen} column={chosenColumn} beside={beside} />;
  return (
    <>
      <div className={css.boardArea}>
        <div className={css.scroller}>
          <table className={css.board} role="grid" aria-label={`Board of ${study.title}`}>
            <thead>
              <tr>
                <th className={css.armHead} style={{ borderTop: "none" }}>
                  <span className="visually-hidden">Material</span>
                </th>
                {columns.map((column) => (
                  <th key={column.test_id} scope="col" style={{ width, minWidth: width }}>
                    <Link className={css.test} to="/studies/$studyId/findings" params={{ studyId: study.id }} search={{ test: column.test_id }}>
                      {column.label}
                    </Link>
                    <span className="soft" style={{ fontSize: "0.8rem" }}>
                      {column.orientation}, {column.quantity_label}, {column.unit}
                    </span>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody ref={body}>
              {study.arms.map((arm, row) => (
                <tr key={arm.id} style={{ height: ROW }}>
                  <th scope="row" className={css.armHead}>
                    <ArmName arm={arm} note={arm.id === study.reference_arm_id ? "reference" : undefined} />
                  </th>
                  {columns.map((column, c) => {
                    const cell = column.cells[row];
                    if (!cell) return <td key={column.test_id} />;
                    const isReference = arm.id === study.reference_arm_id;
                    const verdict = verdictOf(cell, isReference);
                    const here = at[0] === row && at[1] === c;
                    return (
                      <td
                        key={column.test_id}
                        role="gridcell"
                        className={css.cell}
                        data-at={`${row}-${c}`}
                        data-chosen={here || undefined}
                        tabIndex={here ? 0 : -1}
                        onClick={() => focus(row, c)}
                        onDoubleClick={() => open(row, c)}
                        onKeyDown={(e) => onKey(e, row, c)}
                      >
                        <span className="visually-hidden">{cellWords(arm, column, cell, verdict)}</span>
                        <BoardCell
                          cell={cell}
                          verdict={verdict}
                          at={columnScale(study, column, width)}
                          reference={referenceMean(study, column)}
                          margin={column.margin}
                          factor={shownUnit(column.unit).factor}
                          width={width - 2}
                          height={ROW - 2}
                        />
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
            <tfoot>
              <tr>
                <td />
                {columns.map((column) => (
                  <td key={column.test_id}>
                    <Axis study={study} column={column} width={width} />
                  </td>
                ))}
              </tr>
            </tfoot>
          </table>
        </div>
        {beside && about}
      </div>
      <div style={{ marginTop: 10 }}>
        <VerdictLegend />
      </div>
      {!beside && about}
    </>
  );
}

function referenceMean(study: Schemas["StudyView"], column: Schemas["EvidenceView"]): number | null {
  return column.cells.find((c) => c.arm_id === study.reference_arm_id)?.group?.mean ?? null;
}

function columnScale(study: Schemas["StudyView"], column: Schemas["EvidenceView"], width: number) {
  const centre = referenceMean(study, column);
  const band = centre !== null && column.margin !== null ? [centre - column.margin, centre + column.margin] : [];
  const values = column.cells.flatMap((c) => [...c.dots.flatMap((d) => (d.value === null ? [] : [d.value])), ...(c.group?.ci95 ?? [])]);
  return scale(domainOf([...values, ...band], 0.03), 14, width - 18);
}

function Axis({ study, column, width }: { study: Schemas["StudyView"]; column: Schemas["EvidenceView"]; width: number }) {
  if (!column.cells.some((c) => c.tested)) return null;
  const at = columnScale(study, column, width);
  const marks = ticks(at.domain[0], at.domain[1], Math.max(2, width / 75));
  return (
    <svg width={width} height={20} className={css.axis} aria-hidden="true">
      {marks.map((t) => (
        <g key={t}>
          <line x1={at(t)} x2={at(t)} y1={0} y2={4} stroke="var(--soft)" />
          <text x={at(t)} y={16} textAnchor="middle" fontSize="11" fontFamily="var(--mono)" fill="var(--soft)">
            {tickLabel(t, marks)}
          </text>
        </g>
      ))}
    </svg>
  );
}

function cellWords(arm: Schemas["ArmView"], column: Schemas["EvidenceView"], cell: Schemas["CellView"], verdict: string | null): string {
  const what = `${arm.material.maker} ${arm.material.product}, ${column.label} ${column.orientation}`;
  if (!cell.group) return `${what}: ${cell.tested} of ${cell.planned} tested`;
  const shown = figure(cell.group.mean, cell.group.ci95);
  return `${what}: ${shown}, ${cell.tested} of ${cell.planned} tested, ${groupWords(cell.group, column.unit)}, ${verdict ?? "no verdict"}`;
}

interface AboutProps {
  study: Schemas["StudyView"];
  arm: Schemas["ArmView"];
  cell: Schemas["CellView"];
  column: Schemas["EvidenceView"];
  beside: boolean;
}

/** The chosen cell in words, and where to go from it. */
function About({ study, arm, cell, column, beside }: AboutProps) {
  const queries = useQueryClient();
  const reference = study.arms.find((a) => a.id === study.reference_arm_id);
  const isReference = arm.id === study.reference_arm_id;
  const verdict = verdictOf(cell, isReference);
  const makeReference = async () => {
    unwrap<Schemas["StudyView"]>(
      await client.PUT("/api/studies/{study_id}/reference", {
        params: { path: { study_id: study.id }, header: { "if-match": `"${study.revision}"` } },
        body: { reference_arm_id: arm.id },
      }),
    );
    await queries.invalidateQueries();
  };
  const notes = [...(cell.verdict?.notes ?? []), ...cell.notes];
  return (
    <aside className={`${css.about} ${beside ? css.side : css.strip}`} aria-live="polite" aria-label="The chosen cell">
      <strong>
        {arm.mark} × {column.label}
      </strong>
      {cell.group && beside ? (
        <span>
          <span className="figure" style={{ fontSize: "1.7rem", fontWeight: 700 }}>
            {boundSign(cell.group)}
            {figure(cell.group.mean, cell.group.ci95)}
          </span>{" "}
          {column.unit}
          <span style={{ display: "block" }} className="soft">
            {cell.group.ci95 ? (
              <>
                95 % interval <span className="figure">{interval(cell.group.ci95)}</span>
              </>
            ) : (
              "one value: no interval"
            )}
            , n {cell.group.n}
          </span>
        </span>
      ) : cell.group ? (
        <span className="figure">{groupWords(cell.group, column.unit)}</span>
      ) : (
        <span>
          {cell.tested} of {cell.planned} tested
        </span>
      )}
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
      {notes.map((note) => (
        <p key={note} className={css.notes}>
          {note}
        </p>
      ))}
      {beside && cell.batches === 1 && <span className="soft">one print batch: this speaks of these prints</span>}
      <span style={{ marginLeft: beside ? 0 : "auto", display: "flex", gap: 8, flexWrap: "wrap", marginTop: beside ? 6 : 0 }}>
        {cell.tested > 0 && (
          <Button size="xs" variant="default" renderRoot={(props) => <Link {...props} to="/studies/$studyId/findings" params={{ studyId: study.id }} search={{ test: column.test_id }} />}>
            Curves <kbd style={{ marginLeft: 6 }}>Enter</kbd>
          </Button>
        )}
        <Button size="xs" variant="default" renderRoot={(props) => <Link {...props} to="/bench" search={{ test: column.test_id }} />}>
          Bench <kbd style={{ marginLeft: 6 }}>B</kbd>
        </Button>
        {!isReference && (
          <Button size="xs" variant="subtle" onClick={() => void makeReference()}>
            Take as reference
          </Button>
        )}
      </span>
    </aside>
  );
}
