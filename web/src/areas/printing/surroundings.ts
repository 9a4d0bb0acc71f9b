/** What is said once for the batches that follow. */
export interface Surroundings {
  printer: string | null;
  nozzle: string;
  /** °C, as typed. */
  room: string;
}

/** The room in °C; null where nothing is typed, undefined where it is no number. */
export function roomOf(typed: string): number | null | undefined {
  const text = typed.trim().replace(",", ".");
  if (text === "") return null;
  const value = Number(text);
  return Number.isFinite(value) && value >= -30 && value <= 80 ? value : undefined;
}

/** What is read anew once something was printed, or judged as it came off the plate. */
export const AFTER_PRINTING = [
  "/api/studies/{study_id}",
  "/api/studies/{study_id}/print-plan",
  "/api/studies/{study_id}/plates",
  "/api/studies/{study_id}/batches",
  "/api/studies/{study_id}/board",
  "/api/studies/{study_id}/fairness",
  "/api/studies/{study_id}/power",
  "/api/studies",
  "/api/bench",
  "/api/tests/{test_id}/queue",
  "/api/day",
  "/api/spools/{spool_id}",
  "/api/materials/{material_id}",
  "/api/stock",
  "/api/racks/{rig_id}",
] as const;
