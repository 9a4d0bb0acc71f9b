import type { Schemas } from "../../api/client";
import captureCss from "../../capture/capture.module.css";
import { FurtherFields } from "../../capture/FurtherFields";
import type { PartProps } from "../../capture/parts";
import { BELOW, drawnByParts, PARTS } from "../../capture/registry";
import { Drawing } from "../../figures/drawings/Drawing";
import { inText } from "../../ui/format";
import { H, W } from "../../figures/drawings/geometry";
import { middleOf, outcomeAt } from "./Outcomes";
import type { AtEntry } from "./useEntry";

/** What stands under the drawing takes its margins: the share of its height that is kept. */
const CROP: Partial<Record<Schemas["StepKind"], number>> = { "timed loads": 0.6, plain: 0.74, swing: 0.62, twist: 0.62, use: 0.62, ramp: 0.62 };

interface SpecimenDrawingProps {
  code: string;
  test: Schemas["TestView"];
  at: AtEntry;
  /** What all capture parts are given. */
  shared: Omit<PartProps, "step">;
}

/** The specimen at hand, drawn; the places to type stand where they are measured, and it is touched where it broke. */
export function SpecimenDrawing({ code, test, at, shared }: SpecimenDrawingProps) {
  const { entry, steps, change } = at;
  const { geometry, dimensionsOnly } = shared;
  const below = steps.filter((step) => BELOW.includes(step.kind));
  const crop = Math.min(1, ...below.map((step) => CROP[step.kind] ?? 1));
  const oneRow = below.length > 0 && steps.some((s) => s.kind === "section" && s.fields.filter((f) => f.usual > 0 && f.from_rig === null).length === 1);
  const touchable = test.outcomes.some((o) => o.place !== null) && !dimensionsOnly;
  const parts = (wanted: readonly Schemas["StepView"][]) =>
    wanted.map((step) => {
      const Part = PARTS[step.kind];
      return Part && <Part key={step.name} step={step} {...shared} />;
    });
  if (drawnByParts(steps)) {
    return (
      <>
        <div className={captureCss.title}>
          <span className={captureCss.code}>{code}</span>
          <span className="soft">
            {inText(test.label)}, {test.orientation}
          </span>
          {entry.outcome && <span style={{ color: "var(--worse)" }}>{test.outcomes.find((o) => o.name === entry.outcome)?.label}</span>}
          <FurtherFields steps={steps} part={shared} />
        </div>
        {parts(steps)}
      </>
    );
  }
  return (
    <>
      <div className={captureCss.drawing} data-one={oneRow || undefined} style={{ aspectRatio: `${W} / ${H * crop}` }}>
        <Drawing
          shape={test.shape}
          orientation={test.orientation}
          place={entry.place ?? middleOf(test.outcomes, entry.outcome)}
          arrows={steps.some((s) => s.kind === "section")}
          supported={steps.some((s) => s.kind === "timed loads")}
          crop={crop}
          doubted={doubtedArrows(steps, shared.doubts)}
          marks={steps.find((s) => s.kind === "plain")?.fields[0]?.usual ?? 0}
          className={captureCss.shape}
          onTouch={touchable ? (place) => change({ place, outcome: outcomeAt(test.outcomes, place) }) : undefined}
        />
        <div className={captureCss.tag} style={{ left: `${(100 * geometry.tag.left) / W}%`, width: `${(100 * geometry.tag.width) / W}%` }}>
          <div className={captureCss.code}>{code}</div>
          <div className="soft">
            {inText(test.label)}, {test.orientation}
          </div>
          {touchable && test.orientation === "upright" && <div className="soft">left end stood on the bed</div>}
          {touchable && !entry.outcome && <div className="soft">touch where it broke</div>}
          {entry.outcome && <div style={{ color: "var(--worse)" }}>{test.outcomes.find((o) => o.name === entry.outcome)?.label}</div>}
        </div>
        <div className={captureCss.besides}>
          <FurtherFields steps={steps} part={shared} />
        </div>
        {parts(steps.filter((step) => !BELOW.includes(step.kind)))}
      </div>
      {parts(below)}
    </>
  );
}

/** The arrows of readings in doubt: the first dimension goes above the specimen, the second below. */
function doubtedArrows(steps: readonly Schemas["StepView"][], doubts: ReadonlyMap<string, string>): ReadonlySet<string> {
  const rows = (steps.find((s) => s.kind === "section")?.fields ?? []).filter((f) => f.usual > 0 && f.from_rig === null).slice(0, 2);
  return new Set(rows.flatMap((field, row) => Array.from({ length: field.usual }, (_, i) => i).filter((i) => doubts.has(`${field.name}-${String(i)}`)).map((i) => `${row === 0 ? "above" : "below"}-${String(i)}`)));
}
