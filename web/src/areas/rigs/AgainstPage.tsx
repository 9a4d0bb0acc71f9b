import { Button, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";

import { refresh } from "../../api/api";
import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { newId } from "../../api/ids";
import { againstOptions } from "../../api/queries/rigs";
import { FigureFrame } from "../../figures/FigureFrame";
import { RigPairs } from "../../figures/RigPairs";
import { capital, count, decimalsFor, figure, interval, onDay, signed } from "../../ui/format";
import { Empty, ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { type Shown, shownQuantity } from "../../ui/units";
import { Wide } from "../../ui/Wide";

type Compared = Schemas["RigsCompared"];
type Comparison = Schemas["RigComparison"];

/** Two rigs on the same materials: whether they agree, for each way of breaking, and whether one may be converted to the other. */
export function AgainstPage() {
  const { rigId, otherId } = useParams({ from: "/rigs/$rigId/against/$otherId" });
  const compared = useQuery(againstOptions(rigId, otherId));
  if (compared.isError) return <ErrorNote error={compared.error} again={() => void compared.refetch()} />;
  if (!compared.data) return <Waiting what="Holding the rigs against each other …" />;
  const { one, other, comparisons } = compared.data;
  return (
    <div className="page">
      <Link to="/rigs/$rigId" params={{ rigId }} className="soft">
        {one.name}
      </Link>
      <h1>
        {one.name} against {other.name}
      </h1>
      {comparisons.map((c) => (
        <One key={c.key} compared={compared.data} comparison={c} />
      ))}
      {comparisons.length === 0 && (
        <Empty title="Nothing was measured alike on both yet">
          Plan a study of the rig that crosses materials: five or more, tested in the same way on both.{" "}
          <Link to="/studies/new">Plan it</Link>
        </Empty>
      )}
      {comparisons.length > 0 && (
        <p className="soft">
          To convert the other way: <Link to="/rigs/$rigId/against/$otherId" params={{ rigId: otherId, otherId: rigId }}>{other.name} against {one.name}</Link>
        </p>
      )}
    </div>
  );
}

const shiftedWords = (shown: Shown, value: number, ci: readonly [number, number] | null) => {
  const at = value * shown.factor;
  const ends = ci && ([ci[0] * shown.factor, ci[1] * shown.factor] as const);
  return `${signed(at, decimalsFor(at, ends))} ${shown.unit}${ends ? ` [${interval(ends)}]` : ""}`;
};

/** The answer in a sentence. */
function answer(c: Comparison, one: string, other: string, shown: Shown): string {
  const apart = shiftedWords(shown, c.mean_difference, c.difference_ci95);
  const margin = c.margin === null ? "" : `${figure(c.margin * shown.factor)} ${shown.unit}`;
  if (c.pairs.length === 1) return `One material only: ${other} differs by ${apart}. Two or more show whether that is so in general.`;
  if (c.agrees === true) return `The two agree: ${other} differs by ${apart} on average, within the margin of ${margin}.`;
  if (c.agrees === false) return `The two do not agree: ${other} differs from ${one} by ${apart} on average.`;
  return `Undecided: ${other} differs by ${apart} on average${margin && `; the margin is ${margin}`}.`;
}

function One({ compared: { one, other }, comparison: c }: { compared: Compared; comparison: Comparison }) {
  const shown = shownQuantity(c.quantity);
  const names = new Map(c.pairs.map((p) => [p, [`${p.material.maker} ${p.material.product}, ${p.material.colour}`, p.name].filter(Boolean).join(", ")]));
  const title = [c.test, c.end].filter(Boolean).join(" · ");
  return (
    <section aria-label={title} style={{ borderTop: "2px solid var(--ink)", paddingTop: "0.4rem", marginTop: "1.2rem" }}>
      <p style={{ fontSize: 20, margin: "0.2rem 0 0.4rem" }}>{answer(c, one.name, other.name, shown)}</p>
      <FigureFrame title={`${title}, ${count(c.pairs.length, "material")}`} name={`${one.name} against ${other.name} ${c.end}`} rows={() => [["material", `${one.name}, ${shown.unit}`, "n", `${other.name}, ${shown.unit}`, "n"], ...c.pairs.map((p) => [names.get(p) ?? "", shown.at(p.one.mean), p.one.n, shown.at(p.other.mean), p.other.n])]}>
        <Wide label={`Figure of ${title}`}>
          <RigPairs
            pairs={c.pairs.map((p) => ({ name: names.get(p) ?? "", swatch: { hex: p.material.hex, mark: p.material.mark, filled: p.material.filler !== null }, one: shown.at(p.one.mean), other: shown.at(p.other.mean) }))}
            line={c.line && { band: c.line.band.map(([x, y, low, high]) => [shown.at(x), shown.at(y), shown.at(low), shown.at(high)] as const) }}
            mean={c.mean_difference * shown.factor}
            limits={c.limits && [c.limits[0] * shown.factor, c.limits[1] * shown.factor]}
            names={[one.name, other.name]}
            unit={shown.unit}
            label={c.quantity.label}
          />
        </Wide>
      </FigureFrame>
      <Convert rigId={one.rig_id} otherId={other.rig_id} names={[one.name, other.name]} comparison={c} shown={shown} />
    </section>
  );
}

interface ConvertProps {
  rigId: string;
  otherId: string;
  names: readonly [string, string];
  comparison: Comparison;
  shown: Shown;
}

/** Accepting the line as a conversion, taking it back, or why there is none. */
function Convert({ rigId, otherId, names, comparison: c, shown }: ConvertProps) {
  const queries = useQueryClient();
  const [id, setId] = useState(newId);
  const [note, setNote] = useState("");
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const attempt = async (change: () => Promise<unknown>) => {
    if (busy) return;
    setBusy(true);
    try {
      await change();
      setProblem(null);
      setId(newId());
    } catch (error) {
      setProblem(messageOf(error));
    } finally {
      setBusy(false);
      refresh(queries, "/api/rigs/{rig_id}/against/{other_id}", "/api/rigs/{rig_id}", "/api/tests/{test_id}/findings");
    }
  };
  const conversion = c.conversion;
  const range = (low: number, high: number) => `${figure(shown.at(low))} to ${figure(shown.at(high))} ${shown.unit}`;
  if (conversion)
    return (
      <p>
        Converted: {lineWords(conversion.slope, shown.at(conversion.intercept), names)}, from {range(conversion.low, conversion.high)}; accepted by {conversion.who || "somebody unsigned"} on {onDay(conversion.accepted_at)}
        {conversion.note && `: ${conversion.note}`}.{" "}
        <Button size="compact-sm" variant="subtle" disabled={busy} onClick={() => void attempt(async () => unwrap(await client.PATCH("/api/rigs/conversions/{conversion_id}", { params: { path: { conversion_id: conversion.id }, header: { "if-match": `"${String(conversion.revision)}"` } }, body: { retracted: true } })))}>
          Take back
        </Button>
        <Refusal text={problem} />
      </p>
    );
  if (c.reason || !c.line) return <p className="soft">Not convertible here: {c.reason}.</p>;
  const line = c.line;
  return (
    <form
      style={{ display: "flex", flexWrap: "wrap", gap: "0.6rem 1rem", alignItems: "center" }}
      onSubmit={(e) => {
        e.preventDefault();
        void attempt(async () => unwrap(await client.POST("/api/rigs/{rig_id}/against/{other_id}/conversions", { params: { path: { rig_id: rigId, other_id: otherId } }, body: { id, key: c.key, slope: line.slope, note } })));
      }}
    >
      <span>
        {capital(lineWords(line.slope, shown.at(line.intercept), names))}, from {range(line.low, line.high)}.
      </span>
      <TextInput aria-label="Note on the conversion" placeholder="note" value={note} onChange={(e) => setNote(e.currentTarget.value)} maxLength={400} />
      <Button type="submit" variant="default" disabled={busy}>
        Accept this conversion
      </Button>
      <span className="soft">Results of {names[0]} are then shown in findings on {names[1]}: dashed, wider, never with a verdict.</span>
      <Refusal text={problem} />
    </form>
  );
}

const lineWords = (slope: number, intercept: number, names: readonly [string, string]) => `${names[1]} = ${figure(slope)} × ${names[0]} ${intercept < 0 ? "−" : "+"} ${figure(Math.abs(intercept))}`;
