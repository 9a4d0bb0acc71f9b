import type { Schemas } from "../api/client";
import type { Part } from "./parts";
import { PeakPart } from "./peak/PeakPart";
import { PlainPart } from "./plain/PlainPart";
import { RecordingPart } from "./recording/RecordingPart";
import { SectionPart } from "./section/SectionPart";
import { TimedLoadsPart } from "./timedLoads/TimedLoadsPart";

type StepKind = Schemas["StepKind"];

/** One part a step kind; rounds are walked over a rack, on a page of their own. */
export const PARTS: Partial<Record<StepKind, Part>> = {
  section: SectionPart,
  peak: PeakPart,
  recording: RecordingPart,
  "timed loads": TimedLoadsPart,
  plain: PlainPart,
};

/** Parts that stand below the drawing instead of on it. */
export const BELOW: readonly StepKind[] = ["timed loads", "plain"];
