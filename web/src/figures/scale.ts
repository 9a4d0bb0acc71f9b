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

/**
 * The range of values and of their intervals, which widen it by no more than the values themselves span: the interval
 * of two specimens would leave the rest of a figure in one corner otherwise.
 */
export function domainWith(values: readonly number[], intervals: readonly (readonly [number, number])[], air = 0.06): readonly [number, number] {
  const finite = values.filter(Number.isFinite);
  if (!finite.length) return domainOf(intervals.flat(), air);
  const [low, high] = [Math.min(...finite), Math.max(...finite)];
  const room = high - low || Math.abs(high) / 2 || 1;
  return domainOf([...finite, ...intervals.flat().map((v) => Math.min(Math.max(v, low - room), high + room))], air);
}
