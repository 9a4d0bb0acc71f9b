/** The day of an instant where one is, as a date field has it. */
export function dayOf(instant: string): string {
  const at = new Date(instant);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${String(at.getFullYear())}-${two(at.getMonth() + 1)}-${two(at.getDate())}`;
}

/** The end of a day where one is, as an instant. */
export const endOf = (day: string): string => new Date(`${day}T23:59:59`).toISOString();

/** Whether what is missing is late by now. */
export const isLate = (wantedBy: string | null, now: number): boolean => wantedBy !== null && new Date(wantedBy).getTime() < now;
