import { Button, Select, Slider, Switch } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useEffect, useState } from "react";

import { client, messageOf, type Schemas, unwrap } from "../../api/client";
import { purposeOptions, rankingOptions, purposesOptions } from "../../api/queries/choose";
import { FigureFrame } from "../../figures/FigureFrame";
import { isOpen, RankFigure } from "../../figures/RankFigure";
import { short } from "../../ui/format";
import { ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { Problems } from "../../ui/Problems";
import css from "./choose.module.css";
import { EditPurpose, NewPurpose } from "./PurposeForm";
import { rankingRows } from "./tables";
import { shownQuantity } from "../../ui/units";

export function ChoosePage() {
  const purposes = useQuery(purposesOptions());
  const search = useSearch({ from: "/choose" });
  const navigate = useNavigate({ from: "/choose" });
  const [making, setMaking] = useState(false);
  const [changing, setChanging] = useState(false);
  if (purposes.isPending) return <Waiting what="Reading the purposes …" />;
  if (purposes.isError) return <ErrorNote error={purposes.error} again={() => void purposes.refetch()} />;
  const chosen = purposes.data.items.find((u) => u.id === search.purpose) ?? purposes.data.items[0];
  if (!chosen || making) {
    return (
      <div className="page">
        <h1>Choose a material</h1>
        <NewPurpose
          onMade={(purpose) => {
            setMaking(false);
            void navigate({ search: { purpose } });
          }}
          {...(chosen ? { onCancel: () => setMaking(false) } : {})}
        />
      </div>
    );
  }
  return (
    <div className="page">
      <div className={css.head}>
        <h1>Choose a material for</h1>
        <Select
          aria-label="Purpose"
          value={chosen.id}
          onChange={(purpose) => purpose && void navigate({ search: { purpose } })}
          data={purposes.data.items.map((u) => ({ value: u.id, label: u.title }))}
          allowDeselect={false}
          size="md"
          w={260}
        />
        <span className="soft">
          from <Link to="/studies/$studyId/board" params={{ studyId: chosen.study_id }}>{chosen.study_title}</Link>
        </span>
        <span className={css.actions}>
          {!changing && (
            <Button variant="default" size="xs" onClick={() => setChanging(true)}>
              Change what it needs
            </Button>
          )}
          <Button variant="default" size="xs" onClick={() => setMaking(true)}>
            Another purpose
          </Button>
        </span>
      </div>
      <Purpose key={chosen.id} id={chosen.id} changing={changing} onDone={() => setChanging(false)} />
    </div>
  );
}

function Purpose({ id, changing, onDone }: { id: string; changing: boolean; onDone: () => void }) {
  const purpose = useQuery(purposeOptions(id));
  if (purpose.isPending) return <Waiting what="Reading the criteria …" />;
  if (purpose.isError) return <ErrorNote error={purpose.error} again={() => void purpose.refetch()} />;
  if (changing) return <EditPurpose purpose={purpose.data} onMade={onDone} onCancel={onDone} />;
  return <Weigh key={purpose.data.criteria.map((c) => c.id).join()} purpose={purpose.data} />;
}

function Weigh({ purpose }: { purpose: Schemas["PurposeView"] }) {
  const kept = Object.fromEntries(purpose.criteria.map((c) => [c.id, c.weight]));
  const [weights, setWeights] = useState<Record<string, number>>(kept);
  const [asked] = useDebouncedValue(weights, 60);
  const [exact, setExact] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const queries = useQueryClient();
  const usable = Object.values(asked).some((w) => w > 0);
  const changed = purpose.criteria.some((c) => weights[c.id] !== c.weight);
  const total = Object.values(weights).reduce((a, b) => a + b, 0);
  useEffect(() => setProblem(null), [weights]);
  const keep = async () => {
    try {
      const saved = unwrap<Schemas["PurposeView"]>(await client.PATCH("/api/purposes/{purpose_id}", { params: { path: { purpose_id: purpose.id }, header: { "if-match": `"${purpose.revision}"` } }, body: { weights } }));
      queries.setQueryData(purposeOptions(purpose.id).queryKey, saved);
    } catch (error) {
      setProblem(messageOf(error));
      void queries.invalidateQueries({ queryKey: purposeOptions(purpose.id).queryKey });
    }
  };
  return (
    <div className={css.layout}>
      <section aria-label="What matters" className={css.criteria}>
        <h2>What matters</h2>
        {purpose.criteria.map((c) => (
          <Criterion key={c.id} criterion={c} weight={weights[c.id] ?? 0} share={total > 0 ? (weights[c.id] ?? 0) / total : 0} onWeight={(w) => setWeights({ ...weights, [c.id]: w })} />
        ))}
        <div className={css.actions}>
          <Button size="xs" disabled={!changed || !usable} onClick={() => void keep()}>
            Keep these weights
          </Button>
          <Button size="xs" variant="subtle" disabled={!changed} onClick={() => setWeights(kept)}>
            Back to the kept ones
          </Button>
        </div>
        <Refusal text={problem} />
        <Refusal text={usable ? null : "Give at least one criterion a weight."} tone="caution" />
      </section>
      <section aria-label="Ranking" aria-live="polite">
        <Ranked purpose={purpose} weights={asked} usable={usable} exact={exact} onExact={setExact} />
      </section>
    </div>
  );
}

type CriterionView = Schemas["PurposeView"]["criteria"][number];

/** One criterion: what of its quantity is of use, and how much it weighs. */
function Criterion({ criterion: c, weight, share, onWeight }: { criterion: CriterionView; weight: number; share: number; onWeight: (weight: number) => void }) {
  const shown = shownQuantity(c);
  const value = (v: number) => `${short(shown.at(v))} ${shown.unit}`.trim();
  return (
    <div className={css.criterion}>
      <div className={css.name}>
        <strong>
          {c.label}, {c.orientation}
        </strong>
        <span className="figure">{(100 * share).toFixed(0)} %</span>
      </div>
      <Slider value={weight} onChange={onWeight} min={0} max={10} step={0.5} label={(v) => `weight ${v}`} thumbLabel={`weight of ${c.label}, ${c.orientation}`} />
      <div className="soft" style={{ fontSize: "0.82rem" }}>
        {c.near ? `wanted ${value(c.all_needed)}, no use ${value(c.all_needed - Math.abs(c.no_use - c.all_needed))} or ${value(c.all_needed + Math.abs(c.no_use - c.all_needed))}` : `no use at ${value(c.no_use)}, all that is needed at ${value(c.all_needed)}`}
        {c.required !== null && (
          <span style={{ color: "var(--ink)" }}>
            {" "}
            · must {c.near ? "be as near as" : c.all_needed > c.no_use ? "reach" : "stay below"} {value(c.required)}
          </span>
        )}
      </div>
    </div>
  );
}

interface RankedProps {
  purpose: Schemas["PurposeView"];
  weights: Record<string, number>;
  usable: boolean;
  /** Whether bounds are treated as exact. */
  exact: boolean;
  onExact: (exact: boolean) => void;
}

/** The materials in the order that the weights make. */
function Ranked({ purpose, weights, usable, exact, onExact }: RankedProps) {
  const ranking = useQuery({ ...rankingOptions(purpose.id, weights, purpose.revision, exact), enabled: usable });
  if (ranking.isError) return <ErrorNote error={ranking.error} again={() => void ranking.refetch()} />;
  if (!ranking.data) return <Waiting what="Ranking …" />;
  const anyBound = exact || ranking.data.ranked.some((r) => Object.keys(r.bounds).length > 0);
  return (
    <>
      <Problems problems={ranking.data.problems} />
      {anyBound && <Switch size="xs" label="treat bounds as exact" title="Grip breaks and bars that did not break are lower bounds: their true values may change the order" checked={exact} onChange={(e) => onExact(e.currentTarget.checked)} mb="xs" />}
      <FigureFrame title="Ranking" name={`ranking for ${purpose.title}`} about={{ kind: "study", name: purpose.study_title }} rows={() => rankingRows(purpose, ranking.data, isOpen(ranking.data))}>
        <RankFigure ranking={ranking.data} purpose={purpose} />
      </FigureFrame>
      <p className="soft" style={{ fontSize: "0.85rem", maxWidth: 820 }}>
        A rank is shared unless one material beats the other with at least 90 % probability. The columns on the right are from 10 000 draws of the means (seed {ranking.data.seed}); materials
        that tie in a draw both get the better rank, so a column can exceed 100 %. A hollow bar is the range that untested criteria and bounds leave open; the columns then give the probability that a
        material cannot be distinguished from that rank.
      </p>
    </>
  );
}
