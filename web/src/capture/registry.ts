import type { Schemas } from "../api/client";
import { CornersPart } from "./corners/CornersPart";
import { FeaturesPart } from "./features/FeaturesPart";
import type { Part } from "./parts";
import { PeakPart } from "./peak/PeakPart";
import { PlainPart } from "./plain/PlainPart";
import { RampPart } from "./ramp/RampPart";
import { RecordingPart } from "./recording/RecordingPart";
import { SectionPart } from "./section/SectionPart";
import { SwingPart } from "./swing/SwingPart";
import { TimedLoadsPart } from "./timedLoads/TimedLoadsPart";
import { TwistPart } from "./twist/TwistPart";
import { UsePart } from "./use/UsePart";
import { WeighingPart } from "./weighing/WeighingPart";

type StepKind = Schemas["StepKind"];

/** One part a step kind; rounds are walked over a rack, on a page of their own. */
export const PARTS: Partial<Record<StepKind, Part>> = {
  section: SectionPart,
  peak: PeakPart,
  recording: RecordingPart,
  "timed loads": TimedLoadsPart,
  ramp: RampPart,
  swing: SwingPart,
  twist: TwistPart,
  corners: CornersPart,
  features: FeaturesPart,
  weighing: WeighingPart,
  use: UsePart,
  plain: PlainPart,
};

/** Parts that stand below the drawing instead of on it. */
export const BELOW: readonly StepKind[] = ["timed loads", "plain", "ramp", "swing", "twist", "corners", "features", "weighing", "use"];

/** Parts that draw the specimen themselves, where nothing else is read off its drawing. */
const OWN: readonly StepKind[] = ["corners", "features", "weighing", "ramp"];

/** Whether the specimen is drawn by its parts alone. */
export const drawnByParts = (steps: readonly Schemas["StepView"][]): boolean => steps.every((s) => OWN.includes(s.kind) || s.kind === "recording");
