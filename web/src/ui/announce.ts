const REGION = "announcements";

/** Say something to those who listen instead of looking: what is at hand now, what came out. */
export function announce(text: string): void {
  const region = document.getElementById(REGION);
  // the same words twice are said twice
  if (region) region.textContent = region.textContent === text ? `${text}\u00a0` : text;
}

export const regionProps = { id: REGION, role: "status", "aria-live": "polite", className: "visually-hidden" } as const;
