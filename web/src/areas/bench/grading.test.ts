import { expect, test } from "vitest";

import { gradeBy, nextUngraded, type Print, withKept } from "./grading";

const print = (id: string, ...grades: [trait: string, grader: string, grade: number][]): Print => ({
  specimen_id: id, code: id, run_id: null, complete: false, left_out: false, arm: null, places: [], photos: [], grades: grades.map(([trait, grader, grade], i) => ({ id: `${id}${String(i)}`, trait, grader, grade })),
}); // prettier-ignore

test("a grade is one person's for one trait", () => {
  const p = print("a", ["surface", "Ilse", 3], ["surface", "Tomas", 1]);
  expect([gradeBy(p, "surface", "Ilse"), gradeBy(p, "surface", "Tomas"), gradeBy(p, "sheen", "Ilse")]).toEqual([3, 1, null]);
});

test("the walk goes to what this person has not graded, round once", () => {
  const prints = [print("a", ["surface", "Ilse", 3]), print("b"), print("c", ["surface", "Ilse", 2]), print("d")];
  expect(nextUngraded(prints, "surface", "Ilse", -1)).toBe(1);
  expect(nextUngraded(prints, "surface", "Ilse", 1)).toBe(3);
  expect(nextUngraded(prints, "surface", "Ilse", 3)).toBe(1);
  expect(nextUngraded(prints, "surface", "Tomas", 3)).toBe(0);
  expect(nextUngraded(prints.slice(0, 1), "surface", "Ilse", 0)).toBe(0);
});

test("what was just given stands until the server knows it, and not twice", () => {
  const kept = [{ specimenId: "a", id: "k", trait: "surface", grader: "Ilse", grade: 4 }];
  expect(gradeBy(withKept([print("a")], kept)[0]!, "surface", "Ilse")).toBe(4);
  const known = withKept([print("a", ["surface", "Ilse", 4])], kept)[0];
  expect(known?.grades).toHaveLength(1);
});
