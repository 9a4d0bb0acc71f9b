import { Button, SegmentedControl, Select, Textarea, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";

import type { Schemas } from "../../api/client";
import { partFile, partOptions } from "../../api/queries/parts";
import { size } from "../../figures/drawings/sizes";
import { onDay } from "../../ui/format";
import { ErrorNote, Refusal, Waiting } from "../../ui/Notes";
import { PartSheet } from "./PartSheet";
import css from "./parts.module.css";
import { type Kind, KINDS, type TypedPlace, VIEWS } from "./places";
import { type PartAtHand, usePart } from "./usePart";

type Part = Schemas["PartView"];

/** One part of one's own: what it looks like, where it is graded, measured and loaded, and its solid as it stands on the bed. */
export function PartPage() {
  const { partId } = useParams({ from: "/rigs/parts/$partId" });
  const part = useQuery(partOptions(partId));
  if (part.isPending) return <Waiting what="Drawing the part …" />;
  if (part.isError) return <ErrorNote error={part.error} again={() => void part.refetch()} />;
  return <OnePart key={partId} part={part.data} />;
}

function OnePart({ part }: { part: Part }) {
  const hand = usePart(part);
  const { now, kind, setKind } = hand;
  return (
    <div className="page">
      <Link to="/rigs/parts" className="soft">
        Parts of your own
      </Link>
      <div className={css.head}>
        <h1>{part.name}</h1>
        <span className="soft">
          {size(part.length)} × {size(part.width)} × {size(part.height)} · {part.volume.toFixed(2)} cm³ · {part.file_name}, by {part.who} on {onDay(part.added_at)}
          {part.objects > 1 && ` · ${String(part.objects)} bodies`}
        </span>
      </div>
      {part.retracted && (
        <p role="note">
          Taken out of the list. <Button size="compact-sm" variant="default" onClick={() => void hand.retract(true)}>Take it in again</Button>
        </p>
      )}
      <div className={css.page}>
        <section aria-label="The part">
          <div className={css.ways}>
            <SegmentedControl aria-label="What is done where the part is touched" value={kind} onChange={(k) => setKind(k as Kind)} data={Object.entries(KINDS).map(([value, label]) => ({ value, label }))} />
            <span className="soft">touch the drawing where it is {kind === "grade" ? "graded" : kind === "load" ? "loaded" : "measured"}</span>
          </div>
          <PartSheet part={part} places={now.places} chosen={hand.chosen} onChoose={hand.setChosen} onTouch={hand.add} />
          <Files part={part} />
        </section>
        <form
          onSubmit={(e) => {
            e.preventDefault();
            if (hand.changed && !hand.wrong.size && now.name.trim()) void hand.keep();
          }}
        >
          <TextInput label="Name" value={now.name} maxLength={80} error={now.name.trim() ? null : "it needs a name"} onChange={(e) => hand.change({ name: e.currentTarget.value })} />
          <Textarea label="Note" value={now.note} maxLength={200} autosize minRows={1} mt="xs" onChange={(e) => hand.change({ note: e.currentTarget.value })} />
          <h2>Places</h2>
          <Places hand={hand} />
          <div className={css.keep}>
            <Button type="submit" disabled={!hand.changed || hand.wrong.size > 0 || !now.name.trim()} loading={hand.busy}>
              Keep it
            </Button>
            <Button variant="subtle" disabled={!hand.changed} onClick={hand.forget}>
              Leave it as it was
            </Button>
            {hand.changed && <span className="soft">not kept yet</span>}
          </div>
          <Refusal text={hand.problem} />
          {!part.retracted && (
            <p className="soft">
              {part.tests ? `The shape of ${String(part.tests)} ${part.tests === 1 ? "test" : "tests"}.` : "In no study yet: choose it as the shape of a test of parts in use."}{" "}
              <Button size="compact-sm" variant="subtle" onClick={() => void hand.retract(false)}>
                take it out of the list
              </Button>
            </p>
          )}
        </form>
      </div>
    </div>
  );
}

/** The places, numbered as on the drawing; one can be added without touching it. */
function Places({ hand }: { hand: PartAtHand }) {
  const { now } = hand;
  return (
    <>
      {!now.places.length && <p className="soft">None yet. A place has a number on the drawing, here and on the bench.</p>}
      <ol className={css.places}>
        {now.places.map((p, i) => (
          <OnePlace key={p.id} place={p} number={i + 1} hand={hand} />
        ))}
      </ol>
      <Button size="xs" variant="default" onClick={() => hand.add("top", 0, 0)}>
        Add a place in the middle
      </Button>
    </>
  );
}

function OnePlace({ place, number, hand }: { place: TypedPlace; number: number; hand: PartAtHand }) {
  const wrong = (field: string) => hand.wrong.get(`${place.id} ${field}`) ?? null;
  const of = (what: string) => `Place ${String(number)}: ${what}`;
  return (
    <li data-chosen={place.id === hand.chosen || undefined} onFocus={() => hand.setChosen(place.id)}>
      <b>{number}</b>
      <Select aria-label={of("what is done")} size="xs" w={104} allowDeselect={false} data={Object.entries(KINDS).map(([value, label]) => ({ value, label }))} value={place.kind} onChange={(k) => k && hand.edit(place.id, { kind: k as Kind })} />
      <TextInput aria-label={of("name")} size="xs" value={place.label} maxLength={80} error={wrong("label")} onChange={(e) => hand.edit(place.id, { label: e.currentTarget.value })} />
      <button type="button" className={css.drop} aria-label={`Drop place ${String(number)}`} onClick={() => hand.drop(place.id)}>
        drop
      </button>
      <div className={css.where}>
        <Select aria-label={of("seen")} size="xs" w={118} allowDeselect={false} data={Object.entries(VIEWS).map(([value, label]) => ({ value, label }))} value={place.view} onChange={(v) => v && hand.edit(place.id, { view: v as TypedPlace["view"] })} />
        <TextInput aria-label={of("across, mm")} size="xs" w={66} leftSection="↔" inputMode="decimal" value={place.u} error={wrong("u")} onChange={(e) => hand.edit(place.id, { u: e.currentTarget.value })} />
        <TextInput aria-label={of("up, mm")} size="xs" w={66} leftSection="↕" inputMode="decimal" value={place.v} error={wrong("v")} onChange={(e) => hand.edit(place.id, { v: e.currentTarget.value })} />
        {place.kind === "measure" && <TextInput aria-label={of("should measure, mm")} title="what it should measure" placeholder="any" size="xs" w={72} leftSection="=" inputMode="decimal" value={place.nominal} error={wrong("nominal")} onChange={(e) => hand.edit(place.id, { nominal: e.currentTarget.value })} />}
        <span className="soft">mm</span>
      </div>
    </li>
  );
}

/** The solid in every way it stands, and the drawing. */
function Files({ part }: { part: Part }) {
  return (
    <ul className={css.files}>
      {part.standings.map((s) => (
        <li key={s.orientation}>
          <span>
            {s.orientation}{" "}
            <span className="soft">
              {size(s.height)} high{s.stands ? `${s.brim ? ", brim" : ""}${s.supports ? ", supports" : ""}` : ": would fall over"}
            </span>
          </span>
          {s.stands &&
            (["3mf", "stl"] as const).map((kind) => (
              <a key={kind} href={partFile(part.id, kind, s.orientation)} download aria-label={`${part.name}, ${s.orientation}, as ${kind.toUpperCase()}`}>
                {kind.toUpperCase()}
              </a>
            ))}
        </li>
      ))}
      <li>
        <span>drawing with its places</span>
        <a href={partFile(part.id, "svg")} download aria-label={`${part.name}, drawing, as SVG`}>
          SVG
        </a>
      </li>
    </ul>
  );
}
