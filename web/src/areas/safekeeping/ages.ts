/** The axis of ages: hours near now, months far back, so that what is dense and what is sparse are both seen. */
const HOUR = 3_600_000;
const DAY = 24 * HOUR;

export const MARKS = [
  { age: HOUR, label: "1 h" },
  { age: DAY, label: "1 day" },
  { age: 7 * DAY, label: "1 week" },
  { age: 30 * DAY, label: "1 month" },
  { age: 365 * DAY, label: "1 year" },
];

const NEAREST = HOUR / 2;
const FARTHEST = 400 * DAY;

/** Share of the axis, 0 now and 1 at its end, by the logarithm of the age in ms. */
export function place(age: number): number {
  const held = Math.min(FARTHEST, Math.max(NEAREST, age));
  return Math.log(held / NEAREST) / Math.log(FARTHEST / NEAREST);
}

/** "1.4 MB": bytes as people say them. */
export function size(bytes: number): string {
  const steps = ["bytes", "kB", "MB", "GB"];
  const step = Math.min(3, Math.max(0, Math.floor(Math.log10(Math.max(1, bytes)) / 3)));
  const value = bytes / 1000 ** step;
  return `${step && value < 10 ? value.toFixed(1) : Math.round(value)} ${steps[step]}`;
}
