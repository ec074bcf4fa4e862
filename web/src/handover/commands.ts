import type { Command } from "../kit/commands";

interface Does {
  next: () => void;
  ours: () => void;
  theirs: () => void;
  leave: () => void;
  again: () => void;
  oursBelow: () => void;
  theirsBelow: () => void;
  leaveBelow: () => void;
  byHand: () => void;
  read: () => void;
  changes: () => void;
  agreeing: () => void;
}

/** What can be done on a handover: its keys, what `?` lists, and what the search finds, from one list. */
export function handoverCommands(does: Does): Command[] {
  return [
    { keys: "ArrowUp ArrowDown", words: "move from row to row" },
    { keys: "N", words: "to the next row that waits for a decision", run: does.next, find: "Next row to decide" },
    { keys: "O", words: "take ours", edits: true, run: does.ours },
    { keys: "T", words: "take theirs", edits: true, run: does.theirs },
    { keys: "L", words: "leave both as they are this time", edits: true, run: does.leave },
    { keys: "Delete", words: "think again: what was decided is open again", edits: true, run: does.again },
    { keys: "Shift O", words: "take ours for the part and all beneath it", edits: true, run: does.oursBelow },
    { keys: "Shift T", words: "take theirs for the part and all beneath it", edits: true, run: does.theirsBelow },
    { keys: "Shift L", words: "leave the part and all beneath it", edits: true, run: does.leaveBelow },
    {
      keys: "H",
      words: "add a line by hand that only they need",
      edits: true,
      run: does.byHand,
      find: "Add a line for them by hand",
    },
    { keys: "R", words: "read their side again", run: does.read, find: "Read the records again" },
    { keys: "A", words: "show what agrees, or hide it", run: does.agreeing },
    { keys: "C", words: "the change sheet", run: does.changes, find: "The change sheet of this handover" },
  ];
}
