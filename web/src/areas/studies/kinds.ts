import type { Schemas } from "../../api/client";

type Material = Schemas["MaterialView"];

/** What differs between the arms. */
export const KINDS = [
  { value: "material", label: "Materials or colours" },
  { value: "setting", label: "Settings" },
  { value: "treatment", label: "Treatments" },
  { value: "lot", label: "Spools and lots" },
  { value: "printer", label: "Printers" },
  { value: "rig", label: "Rigs" },
] as const;
export type Kind = (typeof KINDS)[number]["value"];

/** An arm as it is being planned; `words` tell it from the others of its material. */
export interface PlannedArm {
  material: Material;
  settings: Record<string, number>;
  treatment: string;
  spool: string | null;
  printer: string | null;
  rig: string | null;
  words: string;
}

interface Named {
  id: string;
  name: string;
}

const plain = (material: Material): PlannedArm => ({ material, settings: {}, treatment: "", spool: null, printer: null, rig: null, words: "" });

interface Made {
  runs: readonly Record<string, number>[];
  treatments: readonly string[];
  named: readonly Named[];
}

/** Whether several materials may be crossed with a kind: a spool holds one. */
export const crossable = (kind: Kind): boolean => kind !== "material" && kind !== "lot";

/** The arms that a kind makes of what was chosen: every level of it with each material. */
export function armsOf(kind: Kind, chosen: readonly Material[], made: Made): PlannedArm[] {
  if (kind === "material") return chosen.map(plain);
  return (crossable(kind) ? chosen : chosen.slice(0, 1)).flatMap((material) => armsOfOne(kind, material, made));
}

function armsOfOne(kind: Exclude<Kind, "material">, one: Material, made: Made): PlannedArm[] {
  if (kind === "setting") return made.runs.map((settings) => ({ ...plain(one), settings }));
  if (kind === "treatment") {
    const told = [...new Set(made.treatments.map((t) => t.trim()).filter(Boolean))];
    return told.length ? ["", ...told].map((treatment) => ({ ...plain(one), treatment, words: treatment || "not treated, the control" })) : [];
  }
  const place = ({ lot: "spool", printer: "printer", rig: "rig" } as const)[kind];
  return made.named.map((n) => ({ ...plain(one), [place]: n.id, words: n.name }));
}

/** What is studied: where all materials are of one product, its colours. */
export function factorOf(kind: Kind, chosen: readonly Material[]): Schemas["NewStudy"]["studied_factor"] {
  if (kind !== "material") return kind;
  const products = new Set(chosen.map((m) => `${m.maker} ${m.product}`));
  return chosen.length > 1 && products.size === 1 ? "colour" : "material";
}

const WANTED: Record<Kind, string> = { material: "a material", setting: "a setting with its values", treatment: "a treatment", lot: "two spools", printer: "two printers", rig: "two rigs" };

/** What a plan still needs, in words; nothing where it can be made. Spools, printers and rigs are compared by two and more. */
export function missingOf(plan: { wrong?: boolean; title: string; kind: Kind; materials: number; arms: number; tests: number }): string {
  const named = plan.kind === "lot" || plan.kind === "printer" || plan.kind === "rig";
  const missing = [
    plan.title.trim() === "" && "a name",
    plan.materials === 0 && "a material",
    (plan.kind === "material" ? 0 : plan.materials) > 0 && plan.arms < (named ? 2 : 1) && WANTED[plan.kind],
    plan.tests === 0 && "a test",
    plan.wrong === true && "the numbers that are marked put right",
  ].filter((m) => m !== false);
  return missing.length > 1 ? `${missing.slice(0, -1).join(", ")} and ${missing.at(-1) ?? ""}` : (missing[0] ?? "");
}
