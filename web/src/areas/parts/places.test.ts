import { describe, expect, it } from "vitest";

import { problemsOf, sentOf, touched, type TypedPlace, typedOf } from "./places";

const place = (more: Partial<TypedPlace> = {}): TypedPlace => ({ id: "a", kind: "measure", label: "bore", view: "top", u: "-3,5", v: "1.5", nominal: "8", ...more });

describe("places on a part", () => {
  it("are kept to the tenth of a millimetre where they were touched, and told apart", () => {
    const first = touched("a", "load", "front", 3.14159, -0.06, []);
    expect([first.label, first.u, first.v]).toEqual(["load", "3.1", "-0.1"]);
    expect(touched("b", "load", "front", 0, 0, [first]).label).toBe("load 2");
    expect(touched("c", "grade", "front", 0, 0, [first]).label).toBe("grade");
  });
  it("are sent as numbers, a size only where something is measured", () => {
    expect(sentOf([place({ label: " bore " })])[0]).toEqual({ id: "a", kind: "measure", label: "bore", view: "top", u: -3.5, v: 1.5, nominal: 8 });
    expect(sentOf([place({ kind: "load" })])[0]?.nominal).toBeNull();
    expect(sentOf([place({ nominal: " " })])[0]?.nominal).toBeNull();
    expect(typedOf([{ id: "a", kind: "grade", label: "under", view: "side", u: 2, v: 0, nominal: null }])[0]).toEqual({ id: "a", kind: "grade", label: "under", view: "side", u: "2", v: "0", nominal: "" });
  });
  it("are not kept while one has no name, stands nowhere, or has a size that none has", () => {
    const wrong = problemsOf([place({ label: " " }), place({ id: "b", u: "x", v: "" }), place({ id: "c", u: "1001" }), place({ id: "d", nominal: "0" }), place({ id: "e", nominal: "1x" }), place({ id: "f", kind: "load", nominal: "1x" })]);
    expect([...wrong.keys()].sort()).toEqual(["a label", "b u", "b v", "c u", "d nominal", "e nominal"]);
    expect(problemsOf([place(), place({ id: "b", nominal: "" })]).size).toBe(0);
  });
});
