import type { Verb } from "../panels/RevisionPanel";

/** What can be done with the whole sheet. */
export type SheetVerb = Verb | "history" | "options" | "renumber" | "library" | "numbers" | "bring";

/** The ways to read a sheet. */
export type Reading = "operations" | "lines" | "overview" | "parts" | "top" | "tree" | "time" | "cost";
export const READINGS: Record<Reading, string> = {
  operations: "by operation",
  lines: "lines alone",
  overview: "overview",
  parts: "parts only",
  top: "top level only",
  tree: "tree as a picture",
  time: "in time",
  cost: "cost questions",
};
