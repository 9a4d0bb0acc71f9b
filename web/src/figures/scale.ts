export interface Scale {
  (value: number): number;
  domain: readonly [number, number];
}

/** A linear scale from values to pixels. */
export function scale(domain: readonly [number, number], from: number, to: number): Scale {
  const span = domain[1] - domain[0] || 1;
  return Object.assign((value: number) => from + ((value - domain[0]) / span) * (to - from), { domain });
}

/** The range of values with a little air; never empty. */
export function domainOf(values: readonly number[], air = 0.06): readonly [number, number] {
  const finite = values.filter(Number.isFinite);
  if (!finite.length) return [0, 1];
  const low = Math.min(...finite);
  const high = Math.max(...finite);
  const pad = (high - low || Math.abs(high) || 1) * air;
  return [low - pad, high + pad];
}
