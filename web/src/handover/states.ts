/** The states of a handover, in words. */
export const STATES: Record<string, string> = {
  work: "compared",
  writing: "being written",
  done: "handed over",
  undone: "taken back",
  dropped: "let go",
};
