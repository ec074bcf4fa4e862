import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";

/** What is read from the server: the first word of every query's key. */
export type Read =
  | "buying"
  | "closed-days"
  | "cutting"
  | "drawings"
  | "files"
  | "findings"
  | "handovers"
  | "hooks"
  | "inquiries"
  | "inquiry-boards"
  | "inquiry-evidence"
  | "inquiry-lines"
  | "inquiry-result"
  | "library"
  | "lists"
  | "load"
  | "measured"
  | "numbers-by-class"
  | "numbers-by-position"
  | "options"
  | "orders"
  | "part"
  | "partners"
  | "programs"
  | "own-second"
  | "own-sessions"
  | "own-sign-on"
  | "parts"
  | "paste"
  | "people"
  | "questions"
  | "quotes"
  | "reference"
  | "rounds"
  | "session"
  | "sheet-view"
  | "sheets"
  | "standards"
  | "times"
  | "today"
  | "substitution"
  | "tokens"
  | "work-centers"
  | "work-orders"
  | "working";

declare module "@tanstack/react-query" {
  interface Register {
    queryKey: QueryKey;
  }
}

/** Whatever shows a figure: it rests on parts, sheets, work centers and rounds. */
const FIGURES: Read[] = ["sheet-view", "sheets", "working", "questions", "times", "load", "findings", "today"];

/** What a write makes untrue. */
const UNTRUE = {
  part: ["parts", "part", "partners", "handovers", ...FIGURES],
  "maker's number": ["part", "partners"],
  file: ["part", "files"],
  model: ["drawings", "part", "parts", "files", "sheet-view"],
  "cut plan": ["cutting"],
  "work order": ["work-orders", "load", "parts", "part", "today", "times", "sheets", "measured"],
  stock: ["parts", "part", "today", "times", "sheets", "work-orders"],
  "open order": ["part", "rounds", "today", "times", "sheets"],
  class: ["parts", "part", "sheets", "lists"],
  partner: ["partners", "parts", "part", "sheet-view"],
  "work center": ["work-centers", ...FIGURES],
  "closed days": ["closed-days", "times", "load"],
  "finished order": ["measured", "library", "today"],
  library: ["library", "sheet-view", "today"],
  option: ["options", ...FIGURES],
  edit: ["working", "sheets", "drawings", "today"],
  sheet: ["sheets", "findings", "handovers", "today"],
  inquiry: ["inquiries", "inquiry-boards", "inquiry-result", "today"],
  "inquiry line": ["inquiries", "inquiry-evidence", "inquiry-result", "today"],
  finding: ["findings", "today"],
  round: ["rounds", "standards", "today"],
  order: ["orders", "buying", "parts", "part", "today", "times", "sheets", "work-orders"],
  plan: ["buying", "inquiries"],
  request: ["buying"],
  quote: ["quotes"],
  offer: ["buying"],
  handover: ["handovers", "parts", "part", ...FIGURES],
  hook: ["hooks"],
  standard: ["rounds", "standards", "parts", "part", "today"],
  substitution: ["substitution"],
  token: ["tokens"],
  people: ["people"],
  selling: ["sheet-view", "part"],
} satisfies Record<string, Read[]>;

export type QueryKey = readonly [Read, ...unknown[]];

export type Written = keyof typeof UNTRUE | "everything";

/** After a write: what it made untrue is read again where it is shown, and elsewhere when it is next shown. */
export function useUntrue() {
  const queries = useQueryClient();
  return useCallback(
    (written: Written) =>
      written === "everything"
        ? queries.invalidateQueries({ predicate: (query) => query.queryKey[0] !== "session" })
        : Promise.all(UNTRUE[written].map((read) => queries.invalidateQueries({ queryKey: [read] }))),
    [queries],
  );
}
