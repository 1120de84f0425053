import type { Schemas } from "../../api/client";

export type TrialsData = Schemas["TrialsView"];
