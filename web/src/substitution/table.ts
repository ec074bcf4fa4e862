import type { Schemas } from "../lib/api";

/** A table of substitution as it is kept. */
export type Table = Schemas["SubstitutionTableOut"];
