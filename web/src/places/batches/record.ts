import type { Problem, Schemas } from "../../api/client";

export type BatchData = Schemas["BatchView"];
export type NewEntry = Schemas["NewEntry"];
export type MeterCheck = Schemas["MeterCheckView"];
/** Writes an entry; resolves to the problem, or null when it is written. */
export type Write = (entry: NewEntry) => Promise<Problem | null>;
