import type { Schemas } from "../../api/client";

/** What a rig is at a time: what a new one and another version have in common. */
export type RigFacts = Omit<Schemas["NewRigVersion"], "version_id">;
