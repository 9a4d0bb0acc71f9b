import { Button, Select, Textarea, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { dossierOptions, intakePreviewOptions, materialsOptions, refreshStock, spoolOptions } from "../../api/queries/stock";
import { DiameterStrip, TOLERANCE } from "../../figures/DiameterStrip";
import { fixed } from "../../ui/format";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";
import { readNumber } from "../../ui/number";
import { type Asked, Questions } from "../../ui/Questions";
import { composition, Swatch } from "../../ui/Swatch";
import { useAsking } from "../../ui/useAsking";
import { Choice } from "./Choice";
import css from "./intake.module.css";
import { IntakeMark, TurnsLeft } from "./SpoolMarks";
import { begun, type IntakeDraft, useIntakeDraft } from "./useIntakeDraft";

/** From the sealed bag to a decision in about a minute: one sheet, Enter goes on, digits choose. */
export function IntakePage() {
  const search = useSearch({ from: "/stock/intake" });
  const materials = useQuery(materialsOptions());
  const there = useQuery({ ...spoolOptions(search.spool ?? ""), enabled: Boolean(search.spool) });
  if (materials.isPending || (search.spool && there.isPending)) return <Waiting what="Fetching the sheet …" />;
  if (materials.isError) return <ErrorNote error={materials.error} again={() => void materials.refetch()} />;
  if (there.isError) return <ErrorNote error={there.error} />;
  if (!materials.data.items.length) {
    return (
      <Empty title="No material yet">
        A spool holds a material: register that first, once, with what its maker says.
        <div style={{ marginTop: 16 }}>
          <Button component={Link} to="/stock/new">
            Register a material
          </Button>
        </div>
      </Empty>
    );
  }
  return <Sheet key={`${search.spool}-${search.material}`} materials={materials.data.items} asked={search} spool={there.data} />;
}

interface SheetProps {
  materials: Schemas["MaterialView"][];
  asked: { material?: string; spool?: string };
  spool: Schemas["SpoolPage"] | undefined;
}

function Sheet({ materials, asked, spool }: SheetProps) {
  const { draft, set, clear } = useIntakeDraft(asked.material ?? spool?.material_id, asked.spool);
  const [reading, setReading] = useState("");
  const asking = useAsking();
  const [busy, setBusy] = useState(false);
  const form = useRef<HTMLFormElement>(null);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const material = materials.find((m) => m.id === draft.materialId);
  const dossier = useQuery({ ...dossierOptions(draft.materialId), enabled: Boolean(material) });
  const label = readNumber(draft.label) ?? spool?.label_net ?? dossier.data?.material.net_mass ?? null;
  const nominal = dossier.data?.material.diameter ?? 1.75;
  const tolerance = dossier.data?.window.tolerance ?? TOLERANCE;
  const [slow] = useDebouncedValue(draft, 120);
  const trial = useQuery({ ...intakePreviewOptions(trialOf(slow, label)), enabled: Boolean(slow.materialId) });
  const seen = trial.data;
  const questions = dedupe([...asking.questions, ...(seen?.questions ?? [])]).filter((q) => !draft.confirmed.includes(q.key));
  const errorOf = (field: string) => (asking.problem?.field === field ? asking.problem.text : (seen?.errors.find((e) => e.field === field)?.text ?? null));

  const next = (from: HTMLElement) => {
    const steps = [...(form.current?.querySelectorAll<HTMLElement>("[data-step]") ?? [])];
    const at = steps.findIndex((s) => s === from || s.contains(from));
    const target = steps[at + 1];
    (target?.querySelector<HTMLElement>("input:checked") ?? target?.querySelector<HTMLElement>("input, textarea, button") ?? target)?.focus();
  };
  const send = async (post: () => Promise<Schemas["SpoolPage"]>) => {
    if (busy || !material) return;
    setBusy(true);
    await asking.attempt(async () => {
      const page = await post();
      clear();
      refreshStock(queries);
      await navigate({ to: "/stock/spools/$spoolId", params: { spoolId: page.id } });
    });
    setBusy(false);
  };
  const keep = () => send(async () => unwrap<Schemas["SpoolPage"]>(await client.POST("/api/intakes", { body: bodyOf(draft, readNumber(draft.label) ?? null) })));
  const later = () => send(async () => unwrap<Schemas["SpoolPage"]>(await client.POST("/api/spools", { body: newSpool(draft, readNumber(draft.label) ?? null) })));
  const addReading = (target: HTMLElement) => {
    if (!reading.trim()) next(target);
    else set({ diameters: [...draft.diameters, reading.trim()] });
    setReading("");
  };
  // wherever the cursor is, even after an answered question has gone from under it
  const held = useRef(keep);
  useEffect(() => {
    held.current = keep;
  });
  useEffect(() => {
    const listen = (e: globalThis.KeyboardEvent) => {
      if (e.key !== "Enter" || !(e.ctrlKey || e.metaKey)) return;
      e.preventDefault();
      void held.current();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
  const onKey = (e: KeyboardEvent<HTMLFormElement>) => {
    const target = e.target as HTMLElement;
    if (e.key !== "Enter" || e.ctrlKey || e.metaKey) return;
    if (target.matches('input:not([aria-expanded="true"])')) {
      e.preventDefault();
      if (target.matches("[name=diameter]")) addReading(target);
      else next(target);
    }
  };
  // the answered question goes, and with it the focus: on to the next one, or to the decision
  const afterAnswer = () => setTimeout(() => form.current?.querySelector<HTMLElement>("[aria-label=Questions] button, [data-keep]")?.focus(), 250);
  const answer = (q: Asked, likely: string) => {
    afterAnswer();
    asking.drop(q);
    if (q.field === "diameters" && q.row !== null) set({ diameters: draft.diameters.map((d, i) => (i + 1 === q.row ? likely : d)) });
    else if (q.field === "received_on") set({ received: likely });
    else if (q.field === "gross") set({ gross: likely });
    else if (q.field === "empty") set({ empty: likely });
  };
  const summary = seen?.summary;
  const decision = draft.decision || seen?.decision || null;
  const overridden = Boolean(draft.decision && seen && draft.decision !== seen.decision);
  return (
    <form ref={form} className={css.sheet} onKeyDown={onKey} onSubmit={(e) => e.preventDefault()} aria-label="Intake of a spool" autoComplete="off">
      <div className={css.top}>
        <Link to="/stock" className="soft">
          Stock
        </Link>
        <h1>{spool ? `Check ${spool.code} again` : "Take in a spool"}</h1>
        <span className="soft">
          <kbd>Enter</kbd> goes on · digits choose · <kbd>Ctrl</kbd> <kbd>Enter</kbd> keeps
        </span>
        {!spool && material && (
          <Button variant="subtle" size="xs" title="it stands on the day sheet until it is checked" onClick={() => void later()}>
            Check it later
          </Button>
        )}
        {begun(draft) && (
          <Button variant="subtle" size="xs" onClick={clear}>
            Start afresh
          </Button>
        )}
      </div>
      <section className={css.bag} aria-label="Bag and label">
        <h2>Bag and label</h2>
        {spool ? (
          <div className={css.chosen}>
            <Swatch hex={spool.material.hex} mark={spool.material.mark} filled={spool.material.filler !== null} />
            <span>
              {spool.material.maker} {spool.material.product}, {spool.material.colour}
              <span className="soft"> · lot {spool.lot || "–"}</span>
            </span>
          </div>
        ) : (
          <>
            <div data-step className={css.chosen}>
              {material && <Swatch hex={material.hex} mark={material.mark} filled={material.filler !== null} />}
              <Select
                label="Material"
                searchable
                autoFocus={!draft.materialId}
                selectFirstOptionOnChange
                nothingFoundMessage="not in the stock: register it first"
                placeholder="type a few letters"
                data={materials.map((m) => ({ value: m.id, label: `${m.maker} ${m.product}, ${m.colour}` }))}
                value={draft.materialId || null}
                onChange={(v) => set({ materialId: v ?? "" })}
                style={{ flex: 1 }}
              />
            </div>
            {material && <div className={css.under}>{composition(material)}</div>}
            <div className={css.pair}>
              <TextInput data-step label="Lot" name="lot" value={draft.lot} onChange={(e) => set({ lot: e.currentTarget.value })} maxLength={80} autoFocus={Boolean(draft.materialId)} />
              <TextInput data-step label="Came on" name="received" type="date" value={draft.received} onChange={(e) => set({ received: e.currentTarget.value })} error={errorOf("received_on")} />
            </div>
            <div className={css.pair}>
              <TextInput
                data-step
                label="Net by the label, g"
                name="label"
                inputMode="decimal"
                placeholder={dossier.data?.material.net_mass ? String(dossier.data.material.net_mass) : ""}
                value={draft.label}
                onChange={(e) => set({ label: e.currentTarget.value })}
                error={readNumber(draft.label) === undefined ? "not a plain number" : null}
              />
              <TextInput data-step label="Spool bears, °C" name="heat" inputMode="decimal" placeholder="not known" value={draft.heatLimit} onChange={(e) => set({ heatLimit: e.currentTarget.value })} />
            </div>
          </>
        )}
        <h2 className={css.second}>On the scales</h2>
        <div className={css.scales}>
          <TurnsLeft hex={material?.hex ?? "var(--raised)"} share={seen?.net != null && label ? seen.net / label : seen?.net != null ? 1 : null} height={40} />
          <div className={css.masses}>
            <TextInput data-step label="Gross, g" name="gross" inputMode="decimal" value={draft.gross} onChange={(e) => set({ gross: e.currentTarget.value })} error={errorOf("gross")} />
            <TextInput
              data-step
              label="Empty spool, g"
              name="empty"
              inputMode="decimal"
              placeholder={spool?.empty != null ? String(spool.empty) : ""}
              value={draft.empty}
              onChange={(e) => set({ empty: e.currentTarget.value })}
              error={errorOf("empty")}
            />
          </div>
          <div className={css.net} aria-live="polite">
            {seen?.net != null ? (
              <>
                <span className="figure" data-testid="net">
                  {seen.net.toFixed(0)}
                </span>{" "}
                g net
                {label !== null && <div className="soft">{seen.net >= label ? `label ${label} g` : `${(100 * (1 - seen.net / label)).toFixed(1)} % below ${label} g`}</div>}
              </>
            ) : (
              <span className="soft">net = gross − empty</span>
            )}
          </div>
        </div>
      </section>
      <section className={css.looks} aria-label="By eye and hand">
        <h2>By eye and hand</h2>
        <Choice label="Seal of the bag" options={SEAL} value={draft.seal} onChange={(seal) => set({ seal })} onDone={next} />
        <Choice label="Desiccant" options={DESICCANT} value={draft.desiccant} onChange={(desiccant) => set({ desiccant })} onDone={next} />
        <Choice label="Winding" options={WINDING} value={draft.winding} onChange={(winding) => set({ winding })} onDone={next} />
        <Choice label="Strand bent sharply" options={SNAP} value={draft.snap} onChange={(snap) => set({ snap })} onDone={next} />
        <Choice label="A good strand beside it" options={SNAP} value={draft.snapGood} onChange={(snapGood) => set({ snapGood })} onDone={next} />
        <Choice label="Popping" hint="at the first extrusion" options={POPPING} value={draft.popping} onChange={(popping) => set({ popping })} onDone={next} />
      </section>
      <section className={css.strand} aria-label="Diameter">
        <h2>Diameter</h2>
        <div className={css.readings}>
          <TextInput
            data-step
            label={`Reading ${draft.diameters.length + 1}, mm`}
            description={draft.diameters.length % 2 ? "turned by a right angle" : "anywhere on the strand"}
            name="diameter"
            inputMode="decimal"
            size="lg"
            value={reading}
            onChange={(e) => setReading(e.currentTarget.value)}
            onKeyDown={(e) => {
              if (e.key === "Backspace" && !reading && draft.diameters.length) {
                setReading(draft.diameters.at(-1) ?? "");
                set({ diameters: draft.diameters.slice(0, -1) });
                e.preventDefault();
              }
            }}
            error={errorOf("diameters")}
            w={170}
          />
          <dl className={css.live} aria-live="polite">
            <Live label="mean" unit="mm" value={summary ? fixed(summary.mean, 3) : null} />
            <Live label="scatter" value={summary?.sd != null ? fixed(summary.sd, 4) : null} unit="mm" />
            <Live label="ovality" value={summary?.ovality != null ? fixed(100 * summary.ovality, 2) : null} unit="%" />
            <Live label="flow ×" value={summary ? fixed(summary.flow_factor, 4) : null} unit="" />
          </dl>
        </div>
        <DiameterStrip values={seen?.diameters ?? []} doubtful={questions.flatMap((q) => (q.field === "diameters" && q.row != null ? [q.row] : []))} nominal={nominal} tolerance={tolerance} mean={summary?.mean ?? null} height={200} />
        <p className={css.typed}>
          {draft.diameters.length ? (
            <>
              <span className="figure">{draft.diameters.join("  ")}</span>
              <span className="soft"> · {draft.diameters.length < 10 ? `${10 - draft.diameters.length} more of 10` : `${draft.diameters.length} readings`} · Backspace takes the last back</span>
            </>
          ) : (
            <span className="soft">Type a reading, Enter, the next. Enter alone goes on.</span>
          )}
        </p>
        <Choice label="Where does it go?" options={STORAGE} value={draft.storage} onChange={(storage) => set({ storage })} onDone={next} />
        <TextInput data-step aria-label="Place" placeholder="which box, shelf, drawer" name="place" value={draft.place} onChange={(e) => set({ place: e.currentTarget.value })} mt={6} />
      </section>
      <footer className={css.decision}>
        <div>
          <Questions
            questions={questions}
            onLikely={answer}
            onConfirm={(q) => {
              set({ confirmed: [...draft.confirmed, q.key] });
              afterAnswer();
            }}
          />
          {asking.problem && (
            <div role="alert" style={{ color: "var(--worse)" }}>
              {asking.problem.text}
            </div>
          )}
        </div>
        <div className={css.proposal}>
          <div className={css.word}>{seen && material ? <IntakeMark decision={decision} /> : <span className="soft">choose the material first</span>}</div>
          <ul className={css.reasons} aria-label="Reasons">
            {seen?.reasons.map((r) => (
              <li key={r.text} data-weight={r.leads_to}>
                {r.text}
              </li>
            ))}
            {seen && !seen.reasons.length && <li className="soft">nothing speaks against it so far</li>}
          </ul>
          <Choice label="Verdict" {...(overridden ? { hint: "against the checks" } : {})} options={VERDICTS} value={draft.decision || (seen?.decision ?? "")} onChange={(v) => set({ decision: v === seen?.decision ? "" : v })} onDone={next} />
          {overridden && (
            <div data-step>
              <Textarea aria-label="Why against the checks" placeholder="why, in a few words" value={draft.note} onChange={(e) => set({ note: e.currentTarget.value })} error={errorOf("note")} rows={2} />
            </div>
          )}
          <Button data-step data-keep size="lg" loading={busy} disabled={!material || questions.length > 0} onClick={() => void keep()}>
            Keep
          </Button>
        </div>
      </footer>
    </form>
  );
}

function Live({ label, value, unit }: { label: string; value: string | null; unit: string }) {
  return (
    <div>
      <dt>
        {label}
        {unit && `, ${unit}`}
      </dt>
      <dd className="figure" data-testid={label}>
        {value ?? "–"}
      </dd>
    </div>
  );
}

const SEAL = [
  { value: "intact", label: "intact" },
  { value: "open", label: "open" },
  { value: "none", label: "no bag" },
] as const;
const DESICCANT = [
  { value: "dry", label: "shows dry" },
  { value: "wet", label: "shows wet" },
  { value: "none", label: "none" },
] as const;
const WINDING = [
  { value: "even", label: "even" },
  { value: "loose", label: "loose" },
  { value: "crossed", label: "crossed" },
] as const;
const SNAP = [
  { value: "bends", label: "bends" },
  { value: "snaps", label: "snaps" },
] as const;
const POPPING = [
  { value: "none", label: "none" },
  { value: "some", label: "some" },
  { value: "much", label: "much" },
] as const;
const STORAGE = [
  { value: "sealed bag", label: "sealed bag" },
  { value: "dry box", label: "dry box" },
  { value: "open", label: "open" },
] as const;
const VERDICTS = [
  { value: "fit", label: "fit" },
  { value: "dry first", label: "dry first" },
  { value: "reject", label: "reject" },
] as const;

function looked(d: IntakeDraft) {
  return {
    gross: d.gross,
    empty: d.empty,
    seal: d.seal,
    desiccant: d.desiccant,
    winding: d.winding,
    snap: d.snap,
    snap_known_good: d.snapGood,
    popping: d.popping,
    diameters: d.diameters,
    confirmed: d.confirmed,
  };
}

function trialOf(d: IntakeDraft, label: number | null): Schemas["IntakePreviewRequest"] {
  return { ...looked(d), material_id: d.materialId, spool_id: d.spoolId || null, label_net: label, received_on: d.spoolId || !d.received ? null : d.received };
}

function bodyOf(d: IntakeDraft, label: number | null): Schemas["NewIntake"] {
  const more = { id: d.id, happened_at: new Date().toISOString(), decision: d.decision || null, note: d.note, storage: d.storage, place: d.place };
  if (d.spoolId) return { ...looked(d), ...more, spool_id: d.spoolId };
  return { ...looked(d), ...more, spool: newSpool(d, label) };
}

function newSpool(d: IntakeDraft, label: number | null): Schemas["NewSpool"] {
  return { id: d.newSpoolId, material_id: d.materialId, lot: d.lot, received_on: d.received, label_net: label, heat_limit: readNumber(d.heatLimit) ?? null, note: "" };
}

function dedupe(questions: Asked[]): Asked[] {
  return [...new Map(questions.map((q) => [q.key, q])).values()];
}
