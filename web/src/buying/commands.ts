import type { Command } from "../kit/commands";

interface Does {
  next: () => void;
  again: () => void;
  builds: () => void;
  limits: () => void;
  offer: () => void;
  ask: () => void;
  letGo: () => void;
  find: () => void;
  leave: () => void;
}

/** What can be done on a plan: its keys, what `?` lists, and what the search finds. */
export function planCommands(does: Does): Command[] {
  return [
    { keys: "ArrowUp ArrowDown", words: "move from need to need" },
    { keys: "1 to 9", words: "take the offer of this number by hand; the rest is planned around it", edits: true },
    { keys: "Delete", words: "let go of what was taken by hand", edits: true, run: does.letGo },
    { keys: "N", words: "to the next need that nothing covers", run: does.next, find: "Next need not covered" },
    { keys: "O", words: "a new offer for this need", edits: true, run: does.offer, find: "New offer for this need" },
    { keys: "Q", words: "ask suppliers for what has no price", run: does.ask, find: "Ask suppliers to quote" },
    { keys: "P", words: "plan anew", edits: true, run: does.again, find: "Plan anew" },
    { keys: "V", words: "what is built, how many and by when", run: does.builds, find: "Builds of this plan" },
    { keys: "G", words: "within which limits it is planned", run: does.limits, find: "Limits of this plan" },
    { keys: "/", words: "find a need", run: does.find },
    { keys: "L", words: "the needs as they stand, as a workbook", run: does.leave, find: "These needs as a workbook" },
  ];
}
