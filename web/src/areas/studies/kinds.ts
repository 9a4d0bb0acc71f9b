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

/** The arms that a kind makes of what was chosen: of one material where not materials are studied. */
export function armsOf(kind: Kind, chosen: readonly Material[], made: { runs: readonly Record<string, number>[]; treatments: readonly string[]; named: readonly Named[] }): PlannedArm[] {
  if (kind === "material") return chosen.map(plain);
  const one = chosen[0];
  if (!one) return [];
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
