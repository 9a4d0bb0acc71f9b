import { amount, count, inShown } from "../ui/format";
import { shownUnit } from "../ui/units";

interface DiameterStripProps {
  values: readonly number[];
  nominal: number;
  tolerance: number;
  mean?: number | null;
  /** Rows, from 1, of readings that are asked about: hollow until answered. */
  doubtful?: readonly number[];
  width?: number;
  height?: number;
}

/** mm; what is taken where the maker names none. */
export const TOLERANCE = 0.05;
const LEFT = 54;
const RIGHT = 44;

/** Readings in the order taken against the tolerance; pairs at right angles are joined. */
export function DiameterStrip({ values, nominal, tolerance, mean = null, doubtful = [], width = 520, height = 190 }: DiameterStripProps) {
  const reach = Math.max(1.6 * tolerance, ...values.filter((_, i) => !doubtful.includes(i + 1)).map((v) => Math.min(Math.abs(v - nominal) * 1.1, 4 * tolerance)));
  const bottom = height - 34;
  const y = (v: number) => 12 + ((nominal + reach - Math.min(Math.max(v, nominal - reach), nominal + reach)) / (2 * reach)) * (bottom - 12);
  const slots = Math.max(10, values.length + (values.length % 2));
  const x = (i: number) => LEFT + ((i + 0.5 + (i % 2 ? -0.12 : 0.12)) / slots) * (width - LEFT - RIGHT);
  const pairs = values.flatMap((v, i) => (i % 2 === 0 && i + 1 < values.length && !doubtful.includes(i + 1) && !doubtful.includes(i + 2) ? [{ i, a: v, b: values[i + 1] ?? v }] : []));
  const text = values.length ? `${count(values.length, "reading")}, ${values.map((v) => inShown(v, "mm", 3)).join(", ")} ${shownUnit("mm").unit}` : "no reading yet";
  return (
    <svg viewBox={`0 0 ${width} ${height}`} style={{ width: "100%", display: "block" }} role="img" aria-label={`Diameter against ${inShown(nominal, "mm", 2)} ± ${amount(tolerance, "mm", 2)}: ${text}`} fontFamily="var(--sans)">
      <rect x={LEFT} y={y(nominal + tolerance)} width={width - LEFT - RIGHT} height={y(nominal - tolerance) - y(nominal + tolerance)} fill="var(--raised)" />
      {[nominal + tolerance, nominal, nominal - tolerance].map((v) => (
        <g key={v}>
          <line x1={LEFT} x2={width - RIGHT} y1={y(v)} y2={y(v)} stroke={v === nominal ? "var(--ink)" : "var(--soft)"} strokeDasharray={v === nominal ? undefined : "4 3"} strokeWidth="1" />
          <text x={LEFT - 6} y={y(v) + 4} textAnchor="end" fontSize="12" fontFamily="var(--mono)" fill="var(--soft)">
            {inShown(v, "mm", 2)}
          </text>
        </g>
      ))}
      {mean !== null && (
        <g>
          <line x1={LEFT} x2={width - RIGHT} y1={y(mean)} y2={y(mean)} stroke="var(--accent)" strokeWidth="1.6" />
          <text x={width - RIGHT + 5} y={y(mean) + (mean < nominal ? 12 : -4)} fontSize="12" fill="var(--accent)">
            mean
          </text>
        </g>
      )}
      {pairs.map(({ i, a, b }) => (
        <line key={i} x1={x(i)} x2={x(i + 1)} y1={y(a)} y2={y(b)} stroke="var(--soft)" strokeWidth="1.4" />
      ))}
      {values.map((v, i) => {
        if (doubtful.includes(i + 1)) return <circle key={i} cx={x(i)} cy={y(v) + 8} r="5" fill="none" stroke="var(--caution)" strokeWidth="2" />;
        const outside = Math.abs(v - nominal) > tolerance + 1e-9;
        return outside ? (
          <rect key={i} x={x(i) - 5} y={y(v) - 5} width="10" height="10" fill="var(--worse)" transform={`rotate(45 ${x(i)} ${y(v)})`} />
        ) : (
          <circle key={i} cx={x(i)} cy={y(v)} r="4.6" fill="var(--ink)" />
        );
      })}
      <line x1={LEFT} x2={width - RIGHT} y1={bottom} y2={bottom} stroke="var(--ink)" />
      <text x={(LEFT + width - RIGHT) / 2} y={height - 14} textAnchor="middle" fontSize="12.5" fill="var(--soft)">
        readings in the order taken, pairs at right angles joined
      </text>
      <text x="12" y={(12 + bottom) / 2} fontSize="12.5" fill="var(--soft)" transform={`rotate(-90 12 ${(12 + bottom) / 2})`} textAnchor="middle">
        diameter, {shownUnit("mm").unit}
      </text>
    </svg>
  );
}
