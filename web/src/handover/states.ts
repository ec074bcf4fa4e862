/** The states of a handover, in words. */
export const STATES: Record<string, string> = {
  work: "compared",
  writing: "being written",
  done: "handed over",
  undone: "taken back",
  dropped: "let go",
};

/** What of a product is handed over, in words. */
export function whatOf({ sheets }: { sheets: string[] }): string {
  if (sheets.length === 0) return "all beneath it";
  return sheets.length === 1 ? "its own sheet" : `${sheets.length} chosen sheets`;
}
