/**
 * Tells a scanner from a person: a scanner types a whole code within a few milliseconds a key and ends with
 * Enter. What came in such a burst is never an entry, a fault or an accept.
 */
export class BurstDetector {
  private text = "";
  private last = -Infinity;

  /**
   * @param gap longest pause within a burst, ms
   * @param least fewest characters that make a burst
   */
  constructor(
    private readonly gap = 45,
    private readonly least = 4,
  ) {}

  /** A printable key; true if it may be the first of a burst, so that the state before it should be remembered. */
  key(char: string, at: number): boolean {
    const starts = at - this.last > this.gap;
    this.text = starts ? char : this.text + char;
    this.last = at;
    return starts;
  }

  /** Enter; the text of the burst it ends, or null if a person pressed it. */
  enter(at: number): string | null {
    const text = at - this.last <= this.gap && this.text.length >= this.least ? this.text : null;
    this.reset();
    return text;
  }

  reset(): void {
    this.text = "";
    this.last = -Infinity;
  }

  /** Whether keys are coming in faster than a person types. */
  get running(): boolean {
    return this.text.length > 1;
  }
}

/** A number with a decimal mark in a burst comes from a calliper that types: it belongs into the field. */
export function isGaugeReading(text: string): boolean {
  return /^\s*[+-]?\d+[.,]\d+\s*(mm|in|")?\s*$/.test(text);
}
