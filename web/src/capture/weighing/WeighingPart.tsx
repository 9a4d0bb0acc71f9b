import type { PartProps } from "../parts";
import { Spot, Stage, STAGE, valueOf } from "../Stage";

const HIGH = 312;
const [AIR, LIQUID] = [250, 620];

/** The specimen on the balance, then hung in the liquid from the same balance. */
export function WeighingPart(part: PartProps) {
  const [air, liquid, solid, water] = part.step.fields;
  if (!air || !liquid || !solid || !water) return null;
  const [a, l] = [valueOf(part, air.name), valueOf(part, liquid.name)];
  const floats = l !== null && l < 0;
  const wrong = a !== null && l !== null && l >= a;
  const drawing = (
    <>
      <Balance x={AIR} />
      <path d={`M${String(AIR - 46)} 168h92v14h-92z`} fill="var(--surface)" stroke="var(--accent)" strokeWidth="2.5" />
      <Balance x={LIQUID} />
      <path d={`M${String(LIQUID - 90)} 120V44H${String(LIQUID)}V118`} fill="none" stroke="var(--ink)" strokeWidth="2" />
      <path d={`M${String(LIQUID - 64)} 84V176H${String(LIQUID + 64)}V84`} fill="none" stroke="var(--ink)" strokeWidth="2.5" />
      <path d={`M${String(LIQUID - 62)} 100H${String(LIQUID + 62)}V174H${String(LIQUID - 62)}Z`} fill="var(--raised)" />
      <path d={`M${String(LIQUID - 36)} ${floats ? "112" : "136"}h72v12h-72z`} fill="var(--surface)" stroke="var(--accent)" strokeWidth="2.5" />
      {part.rig?.geometry["liquid_density"] !== undefined && (
        <text x={STAGE - 170} y="24" textAnchor="middle" fontSize="15" fill="var(--soft)">
          {`in the rig's liquid, ${String(part.rig.geometry["liquid_density"])} g/cm³, unless it is water`}
        </text>
      )}
      {wrong && (
        <text x={STAGE - 170} y="270" textAnchor="middle" fontSize="15" fill="var(--worse)">
          heavier in the liquid than in air
        </text>
      )}
    </>
  );
  return (
    <Stage height={HIGH} label="Weighed in air, then in the liquid" drawing={drawing}>
      <Spot part={part} field={air} x={AIR} y={262} height={HIGH} />
      <Spot part={part} field={liquid} x={LIQUID} y={262} height={HIGH} />
      <Spot part={part} field={water} x={STAGE - 170} y={78} height={HIGH}>
        water temperature
      </Spot>
      <Spot part={part} field={solid} x={STAGE - 170} y={178} height={HIGH}>
        solid filament
      </Spot>
    </Stage>
  );
}

function Balance({ x }: { x: number }) {
  return <path d={`M${String(x - 80)} 184h160M${String(x - 90)} 196h180l10 22h-200z`} fill="var(--surface)" stroke="var(--ink)" strokeWidth="2" />;
}
