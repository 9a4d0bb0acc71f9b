import { Button, Select, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useInfiniteQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";

import type { Schemas } from "../../api/client";
import { type StockAsked, stockOptions } from "../../api/queries/stock";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import { LinkButton } from "../../ui/LinkButton";
import { composition, Swatch } from "../../ui/Swatch";
import { IntakeMark, isDried, moistureDoubt, shareLeft, TurnsLeft } from "./SpoolMarks";
import { beside, shownParts } from "./strip";
import css from "./stock.module.css";
import { amount } from "../../ui/format";

type StockItem = Schemas["StockItem"];

const STATES = [
  { value: "", label: "any spools" },
  { value: "at hand", label: "a spool at hand" },
  { value: "fit", label: "fit" },
  { value: "dry first", label: "dry first, at intake" },
  { value: "unchecked", label: "not checked" },
  { value: "reject", label: "rejected" },
  { value: "none", label: "no spool" },
];
const SORTS = [
  { value: "name", label: "by name" },
  { value: "price", label: "by price per kg" },
  { value: "polymer", label: "by polymer" },
  { value: "newest", label: "newest first" },
];
const ALL: StockAsked = { words: "", polymer: "", filled: undefined, state: "", sort: "name" };

/** The stock to be scanned: what there is, in which state, what has been measured of it, what it costs. */
export function StockPage() {
  const [asked, setAsked] = useState<StockAsked>(ALL);
  const [slow] = useDebouncedValue(asked, 120);
  const pages = useInfiniteQuery(stockOptions(slow));
  const first = pages.data?.pages[0];
  const items = pages.data?.pages.flatMap((p) => p.items) ?? [];
  const filtered = JSON.stringify({ ...asked, sort: "" }) !== JSON.stringify({ ...ALL, sort: "" });
  return (
    <div className="page">
      <div className={css.head}>
        <h1>Stock</h1>
        <nav className={css.actions} aria-label="In the stock">
          <LinkButton to="/stock/intake">Take in a spool</LinkButton>
          <LinkButton to="/stock/drying" variant="default">
            Drying &amp; storage
          </LinkButton>
          <LinkButton to="/stock/new" variant="default">
            New material
          </LinkButton>
          <LinkButton to="/stock/lists" variant="subtle">
            Lists in and out
          </LinkButton>
          <LinkButton to="/stock/labels" variant="subtle">
            Labels
          </LinkButton>
        </nav>
      </div>
      <Filters asked={asked} onAsk={setAsked} first={first} />
      {pages.isPending ? (
        <Waiting what="Reading the stock …" />
      ) : pages.isError ? (
        <ErrorNote error={pages.error} again={() => void pages.refetch()} />
      ) : !items.length ? (
        <Nothing filtered={filtered} onAll={() => setAsked(ALL)} />
      ) : (
        <>
          <StockTable items={items} strip={shownParts(first?.strip ?? [], items)} />
          {pages.hasNextPage && <More onReached={() => void pages.fetchNextPage()} busy={pages.isFetchingNextPage} />}
        </>
      )}
    </div>
  );
}

function Filters({ asked, onAsk, first }: { asked: StockAsked; onAsk: (asked: StockAsked) => void; first: Schemas["StockPage"] | undefined }) {
  return (
    <div className={css.filters}>
      <TextInput
        aria-label="Search the stock"
        placeholder="maker, product, colour, polymer, spool code …"
        value={asked.words}
        onChange={(e) => onAsk({ ...asked, words: e.currentTarget.value })}
        w={320}
      />
      <Select
        aria-label="Polymer"
        data={[{ value: "", label: "any polymer" }, ...(first?.polymers ?? []).map((p) => ({ value: p.name, label: `${p.name} (${p.count})` }))]}
        value={asked.polymer}
        onChange={(v) => onAsk({ ...asked, polymer: v ?? "" })}
        w={150}
      />
      <Select
        aria-label="Filler"
        data={[
          { value: "", label: "filled or not" },
          { value: "yes", label: "filled" },
          { value: "no", label: "unfilled" },
        ]}
        value={asked.filled === undefined ? "" : asked.filled ? "yes" : "no"}
        onChange={(v) => onAsk({ ...asked, filled: v ? v === "yes" : undefined })}
        w={140}
      />
      <Select aria-label="Spools" data={STATES} value={asked.state} onChange={(v) => onAsk({ ...asked, state: (v ?? "") as StockAsked["state"] })} w={160} />
      <Select aria-label="Order" data={SORTS} value={asked.sort} onChange={(v) => onAsk({ ...asked, sort: (v ?? "name") as StockAsked["sort"] })} w={170} />
      {first && (
        <span className="soft" aria-live="polite">
          <span className="figure">{first.total}</span> {first.total === 1 ? "material" : "materials"}
        </span>
      )}
    </div>
  );
}

/** Nothing to show: as nothing matches, or as nothing is there yet. */
function Nothing({ filtered, onAll }: { filtered: boolean; onAll: () => void }) {
  if (filtered) {
    return (
      <Empty within title="Nothing of that kind">
        <Button variant="default" onClick={onAll}>
          Show all again
        </Button>
      </Empty>
    );
  }
  return (
    <Empty within title="The stock is empty">
      Register a material, or paste the list you keep in a spreadsheet: it is looked through row by row before anything is taken in.
      <div style={{ marginTop: 16, display: "flex", gap: 10, justifyContent: "center" }}>
        <LinkButton to="/stock/new">First material</LinkButton>
        <LinkButton to="/stock/lists" variant="default">
          Paste a list
        </LinkButton>
      </div>
    </Empty>
  );
}

/** A test and its orientation in short words, as there is little room. */
const shortly = ({ key, label }: Schemas["StripPart"]) => (key.startsWith("tension ") ? key : `${label.toLowerCase()} ${key.split(" ").slice(1).join(" ")}`);

function StockTable({ items, strip }: { items: StockItem[]; strip: Schemas["StripPart"][] }) {
  const body = useRef<HTMLTableSectionElement>(null);
  const onKey = (e: KeyboardEvent) => {
    const step = e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
    if (!step || !body.current) return;
    const links = [...body.current.querySelectorAll<HTMLAnchorElement>("a[data-material]")];
    const at = links.findIndex((l) => l === document.activeElement);
    e.preventDefault();
    links[Math.min(links.length - 1, Math.max(0, at + step))]?.focus();
  };
  return (
    <table className={css.stock} onKeyDown={onKey}>
      <thead>
        <tr>
          <th>Material</th>
          <th>Spools at hand</th>
          <th className={css.stripHead}>
            <span>Specimens tested</span>
            <span className={css.strip} aria-hidden="true">
              {strip.map((p) => (
                <span key={p.key} className={css.slotName}>
                  {shortly(p)}
                </span>
              ))}
              {items.some((m) => beside(m, strip) > 0) && <span className={css.slotName}>other tests</span>}
            </span>
          </th>
          <th>Maker says</th>
          <th className="num">per kg</th>
          <th className="num" title="a solid short pull bar">
            per specimen
          </th>
        </tr>
      </thead>
      <tbody ref={body}>
        {items.map((m, i) => (
          <StockRow key={m.id} m={m} strip={strip} others={items.some((x) => beside(x, strip) > 0)} tied={sameLine(m, items[i - 1])} />
        ))}
      </tbody>
    </table>
  );
}

function StockRow({ m, strip, others, tied }: { m: StockItem; strip: Schemas["StripPart"][]; others: boolean; tied: boolean }) {
  const navigate = useNavigate();
  return (
    <tr data-tied={tied || undefined} onClick={(e) => !(e.target as HTMLElement).closest("a") && void navigate({ to: "/stock/materials/$materialId", params: { materialId: m.id } })}>
      <td>
        <div className={css.material}>
          <Swatch hex={m.hex} mark={m.mark} filled={m.filler !== null} size={34} />
          <div>
            <Link data-material to="/stock/materials/$materialId" params={{ materialId: m.id }} className={css.name}>
              {m.maker} {m.product}
            </Link>
            {m.withdrawn_on && <span className="soft"> withdrawn</span>}
            <div className={css.under}>
              {m.colour} · {composition(m)}
              {m.obtained === "sent free" && " · sent free"}
            </div>
          </div>
        </div>
      </td>
      <td>
        {m.spools.length ? (
          <div className={css.spools}>
            {m.spools.map((s) => (
              <SpoolLine key={s.id} spool={s} hex={m.hex} />
            ))}
          </div>
        ) : (
          <Link to="/stock/intake" search={{ material: m.id }} className={css.quiet}>
            take one in
          </Link>
        )}
      </td>
      <td>
        <Tested m={m} strip={strip} others={others} />
      </td>
      <td className={css.says}>
        {m.contradictions > 0 ? <span className={css.doubt}>contradicts itself</span> : m.claims ? `${m.claims} ${m.claims === 1 ? "claim" : "claims"}` : <span className="soft">–</span>}
      </td>
      <td className="num" data-label="per kg">{m.per_kg === null ? <span className="soft">–</span> : `${m.per_kg.toFixed(2)} ${m.currency}`}</td>
      <td className="num" data-label="per specimen">{m.per_specimen === null ? <span className="soft">–</span> : `${m.per_specimen.toFixed(2)} ${m.currency}`}</td>
    </tr>
  );
}

/** How many specimens of it each test has broken. */
function Tested({ m, strip, others }: { m: StockItem; strip: Schemas["StripPart"][]; others: boolean }) {
  const more = beside(m, strip);
  const words = [...strip.map((p) => `${p.label}: ${String(m.measured[p.key] ?? 0)} tested`), ...(others ? [`other tests: ${String(more)} tested`] : [])];
  return (
    <span className={css.strip} role="img" aria-label={words.join(", ")}>
      {strip.map((p) => {
        const n = m.measured[p.key] ?? 0;
        return (
          <span key={p.key} className={css.slot} data-some={n > 0 || undefined} data-enough={n >= 5 || undefined}>
            {n || "–"}
          </span>
        );
      })}
      {others && (
        <span className={css.slot} data-some={more > 0 || undefined}>
          {more || "–"}
        </span>
      )}
    </span>
  );
}

function sameLine(a: StockItem, b: StockItem | undefined): boolean {
  return b?.maker === a.maker && b.product === a.product;
}

function SpoolLine({ spool, hex }: { spool: Schemas["SpoolItem"]; hex: string }) {
  return (
    <Link to="/stock/spools/$spoolId" params={{ spoolId: spool.id }} className={css.spool}>
      <TurnsLeft hex={hex} share={shareLeft(spool)} height={18} />
      <span className="figure">{spool.code}</span>
      <IntakeMark decision={spool.decision} dried={isDried(spool)} short />
      <span className={`figure ${css.left}`}>{spool.left === null ? "not weighed" : amount(spool.left, "g", 0)}</span>
      <span className={css.state} data-doubt={moistureDoubt(spool) || undefined}>
        {spool.moisture.words}
      </span>
    </Link>
  );
}

/** Asks for the next page when it comes into view. */
function More({ onReached, busy }: { onReached: () => void; busy: boolean }) {
  const end = useRef<HTMLDivElement>(null);
  const held = useRef(onReached);
  useEffect(() => {
    held.current = onReached;
  });
  useEffect(() => {
    const seen = new IntersectionObserver((entries) => entries[0]?.isIntersecting && held.current(), { rootMargin: "600px" });
    if (end.current) seen.observe(end.current);
    return () => seen.disconnect();
  }, []);
  return (
    <div ref={end} style={{ padding: "1rem", textAlign: "center" }}>
      <Button variant="subtle" loading={busy} onClick={onReached}>
        More
      </Button>
    </div>
  );
}
