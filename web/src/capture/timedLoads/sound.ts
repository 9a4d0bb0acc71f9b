/** Tones that announce a reading: three short ones before it falls due, a long one as it does. */
let context: AudioContext | null = null;

function tone(at: number, seconds: number, hertz: number): void {
  if (!context) return;
  const oscillator = context.createOscillator();
  const gain = context.createGain();
  oscillator.frequency.value = hertz;
  // a soft edge: a bare switch clicks
  gain.gain.setValueAtTime(0, at);
  gain.gain.linearRampToValueAtTime(0.25, at + 0.01);
  gain.gain.setValueAtTime(0.25, at + seconds - 0.02);
  gain.gain.linearRampToValueAtTime(0, at + seconds);
  oscillator.connect(gain).connect(context.destination);
  oscillator.start(at);
  oscillator.stop(at + seconds);
}

/** To be called from a key or a touch: browsers let nothing sound before one. */
export function wake(): void {
  if (typeof AudioContext === "undefined") return;
  context ??= new AudioContext();
  void context.resume();
}

export const tick = (): void => tone(context?.currentTime ?? 0, 0.07, 660);
export const call = (): void => tone(context?.currentTime ?? 0, 0.45, 880);
