import { NativeSelect, TextInput, Textarea } from "@mantine/core";
import { useEffect, useRef, useState } from "react";

import { DiameterStrip } from "../../figures/DiameterStrip";
import { fixed, inShown, setting } from "../../ui/format";
import { readNumber } from "../../ui/number";
import { Picker } from "../../ui/Picker";
import { composition, Swatch } from "../../ui/Swatch";
import { Choice } from "./Choice";
import { BODY, DECISIONS, DESICCANT, LOOSE_END, POPPING, SEAL, SNAP, STORAGE, WINDING } from "./intake";
import css from "./intake.module.css";
import { IntakeMark, TurnsLeft } from "./SpoolMarks";
import type { PartProps } from "./useIntake";
import { shownUnit } from "../../ui/units";

/** Which spool it is: as its bag and its label say, or one that is there already. */
export function Bag({ intake, next }: PartProps) {
  const { spool } = intake;
  return (
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
        <Label intake={intake} next={next} />
      )}
      <h2 className={css.second}>On the scales</h2>
      <Scales intake={intake} />
    </section>
  );
}

function Label({ intake, next }: PartProps) {
  const { draft, set, material, materials, errorOf } = intake;
  return (
    <>
      <div data-step className={css.chosen}>
        {material && <Swatch hex={material.hex} mark={material.mark} filled={material.filler !== null} />}
        <Picker
          label="Material"
          autoFocus={!draft.materialId}
          missing="not in stock: add it first"
          onDone={next}
          placeholder="type a few letters"
          comboboxProps={{ withinPortal: false }}
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
          placeholder={intake.labelNet ? String(intake.labelNet) : ""}
          value={draft.label}
          onChange={(e) => set({ label: e.currentTarget.value })}
          error={readNumber(draft.label) === undefined ? "not a plain number" : null}
        />
        <TextInput data-step label="Spool bears, °C" name="heat" inputMode="decimal" placeholder="not known" value={draft.heatLimit} onChange={(e) => set({ heatLimit: e.currentTarget.value })} />
      </div>
      <div className={css.three}>
        <NativeSelect label="Its body" name="body" data={BODY} value={draft.body} onChange={(e) => set({ body: e.currentTarget.value as typeof draft.body })} />
        <TextInput label="Bore, mm" name="bore" inputMode="decimal" value={draft.bore} onChange={(e) => set({ bore: e.currentTarget.value })} error={readNumber(draft.bore) === undefined ? "not a plain number" : errorOf("spool.bore")} />
        <NativeSelect label="Loose end" name="loose_end" data={LOOSE_END} value={draft.looseEnd} onChange={(e) => set({ looseEnd: e.currentTarget.value as typeof draft.looseEnd })} />
      </div>
    </>
  );
}

function Scales({ intake }: Pick<PartProps, "intake">) {
  const { draft, set, material, spool, seen, label, errorOf } = intake;
  return (
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
              {inShown(seen.net, "g", 0)}
            </span>{" "}
            {shownUnit("g").unit} net
            {label !== null && <div className="soft">{seen.net >= label ? `label ${setting(label, "g")}` : `${(100 * (1 - seen.net / label)).toFixed(1)} % below ${setting(label, "g")}`}</div>}
          </>
        ) : (
          <span className="soft">net = gross − empty</span>
        )}
      </div>
    </div>
  );
}

export function Looks({ intake, next }: PartProps) {
  const { draft, set } = intake;
  return (
    <section className={css.looks} aria-label="By eye and hand">
      <h2>By eye and hand</h2>
      <Choice label="Seal of the bag" options={SEAL} value={draft.seal} onChange={(seal) => set({ seal })} onDone={next} />
      <Choice label="Desiccant" options={DESICCANT} value={draft.desiccant} onChange={(desiccant) => set({ desiccant })} onDone={next} />
      <Choice label="Winding" options={WINDING} value={draft.winding} onChange={(winding) => set({ winding })} onDone={next} />
      <Choice label="Strand bent sharply" options={SNAP} value={draft.snap} onChange={(snap) => set({ snap })} onDone={next} />
      <Choice label="A good strand beside it" options={SNAP} value={draft.snapGood} onChange={(snapGood) => set({ snapGood })} onDone={next} />
      <Choice label="Popping" hint="at the first extrusion" options={POPPING} value={draft.popping} onChange={(popping) => set({ popping })} onDone={next} />
    </section>
  );
}

/** Diameters one after another, each drawn where it falls; and where the spool goes. */
export function Strand({ intake, next }: PartProps) {
  const { draft, set, seen, questions } = intake;
  const summary = seen?.summary;
  const [mending, setMending] = useState<number | null>(null);
  const doubtful = questions.flatMap((q) => (q.field === "diameters" && q.row != null ? [q.row] : []));
  return (
    <section className={css.strand} aria-label="Diameter">
      <h2>Diameter</h2>
      <div className={css.readings}>
        <DiameterField key={mending ?? "next"} intake={intake} next={next} mending={mending} onMended={() => setMending(null)} />
        <dl className={css.live} aria-live="polite">
          <Live label="mean" unit={shownUnit("mm").unit} value={summary ? inShown(summary.mean, "mm", 3) : null} />
          <Live label="scatter" value={summary?.sd != null ? inShown(summary.sd, "mm", 4) : null} unit={shownUnit("mm").unit} />
          <Live label="ovality" value={summary?.ovality != null ? fixed(100 * summary.ovality, 2) : null} unit="%" />
          <Live label="flow ×" value={summary ? fixed(summary.flow_factor, 4) : null} unit="" />
        </dl>
      </div>
      <DiameterStrip values={seen?.diameters ?? []} doubtful={doubtful} nominal={intake.nominal} tolerance={intake.tolerance} mean={summary?.mean ?? null} height={200} />
      <p className={css.typed}>
        {draft.diameters.length ? (
          <>
            {draft.diameters.map((d, i) => (
              <button key={i} type="button" className={css.reading} data-doubt={doubtful.includes(i + 1) || undefined} aria-pressed={mending === i} aria-label={`Mend reading ${String(i + 1)}, ${d} mm`} onClick={() => setMending(mending === i ? null : i)}>
                {d}
              </button>
            ))}
            <span className="soft"> · touch one to mend it · {draft.diameters.length < 10 ? `${10 - draft.diameters.length} more of 10` : `${draft.diameters.length} readings`} · Backspace takes the last back</span>
          </>
        ) : (
          <span className="soft">Type a reading, Enter, the next. Enter alone goes on.</span>
        )}
      </p>
      <Choice label="Where does it go?" options={STORAGE} value={draft.storage} onChange={(storage) => set({ storage })} onDone={next} />
      <TextInput data-step aria-label="Place" placeholder="which box, shelf, drawer" name="place" value={draft.place} onChange={(e) => set({ place: e.currentTarget.value })} mt={6} />
    </section>
  );
}

/** One reading after another: Enter takes it, Enter on nothing goes on, Backspace on nothing takes the last back. */
function DiameterField({ intake, next, mending, onMended }: PartProps & { mending: number | null; onMended: () => void }) {
  const { draft, set } = intake;
  const [reading, setReading] = useState(mending === null ? "" : (draft.diameters[mending] ?? ""));
  const [wrong, setWrong] = useState<string | null>(null);
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (mending === null) return;
    field.current?.focus();
    field.current?.select();
  }, [mending]);
  const add = (from: HTMLElement) => {
    const typed = reading.trim();
    // a unit may stand behind it: the server reads that; what begins with no number is none
    if (typed && !/^[+-]?[.,]?\d/.test(typed)) return setWrong(`“${typed}” is no number: a diameter in mm, such as 1.75`);
    if (mending !== null) {
      // emptied, it is taken out
      set({ diameters: typed ? draft.diameters.map((d, i) => (i === mending ? typed : d)) : draft.diameters.filter((_, i) => i !== mending) });
      return onMended();
    }
    if (!typed) next(from);
    else set({ diameters: [...draft.diameters, typed] });
    setReading("");
  };
  return (
    <TextInput
      data-step
      ref={field}
      label={mending === null ? `Reading ${draft.diameters.length + 1}, mm` : `Reading ${String(mending + 1)} again, mm`}
      description={draft.diameters.length % 2 ? "turned by a right angle" : "anywhere on the strand"}
      name="diameter"
      inputMode="decimal"
      size="lg"
      value={reading}
      onChange={(e) => {
        setReading(e.currentTarget.value);
        setWrong(null);
      }}
      onKeyDown={(e) => {
        if (e.key === "Enter" && !e.ctrlKey && !e.metaKey) {
          e.preventDefault();
          e.stopPropagation();
          add(e.currentTarget);
        }
        if (e.key === "Backspace" && !reading && mending === null && draft.diameters.length) {
          setReading(draft.diameters.at(-1) ?? "");
          set({ diameters: draft.diameters.slice(0, -1) });
          e.preventDefault();
        }
      }}
      error={wrong ?? intake.errorOf("diameters")}
      w={170}
    />
  );
}

/** What the checks say, and what is decided. */
export function Proposal({ intake, next }: PartProps) {
  const { draft, set, seen, material, errorOf } = intake;
  const overridden = Boolean(draft.decision && seen && draft.decision !== seen.decision);
  return (
    <>
      <div className={css.word}>{seen && material ? <IntakeMark decision={draft.decision || seen.decision} /> : <span className="soft">choose the material first</span>}</div>
      <ul className={css.reasons} aria-label="Reasons">
        {seen?.reasons.map((r) => (
          <li key={r.text} data-weight={r.leads_to}>
            {r.text}
          </li>
        ))}
        {seen && !seen.reasons.length && <li className="soft">nothing speaks against it so far</li>}
      </ul>
      <Choice label="Decision" {...(overridden ? { hint: "against the checks" } : {})} options={DECISIONS} value={draft.decision || (seen?.decision ?? "")} onChange={(v) => set({ decision: v === seen?.decision ? "" : v })} onDone={next} />
      {overridden && (
        <div data-step>
          <Textarea aria-label="Why against the checks" placeholder="why, in a few words" value={draft.note} onChange={(e) => set({ note: e.currentTarget.value })} error={errorOf("note")} rows={2} />
        </div>
      )}
    </>
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

