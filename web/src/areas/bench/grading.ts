import type { Schemas } from "../../api/client";

export type Print = Schemas["GradedPrint"];

/** What a person gave a print for a trait; null while nothing. */
export function gradeBy(print: Pick<Print, "grades">, trait: string, person: string): number | null {
  return print.grades.findLast((g) => g.trait === trait && g.grader === person)?.grade ?? null;
}

/** The next print after a place that a person has not graded for a trait, going round once; the place itself where all are. */
export function nextUngraded(prints: readonly Print[], trait: string, person: string, after: number): number {
  for (let i = 1; i <= prints.length; i++) {
    const at = (after + i) % prints.length;
    const print = prints[at];
    if (print && gradeBy(print, trait, person) === null) return at;
  }
  return Math.max(0, after);
}

/** Prints with what was just given and not heard of by the server yet. */
export function withKept(prints: readonly Print[], kept: readonly { specimenId: string; id: string; trait: string; grader: string; grade: number }[]): Print[] {
  return prints.map((p) => {
    const known = new Set(p.grades.map((g) => g.id));
    const own = kept.filter((k) => k.specimenId === p.specimen_id && !known.has(k.id) && !p.grades.some((g) => g.trait === k.trait && g.grader === k.grader));
    return own.length ? { ...p, grades: [...p.grades, ...own.map((k) => ({ id: k.id, trait: k.trait, grader: k.grader, grade: k.grade }))] } : p;
  });
}
