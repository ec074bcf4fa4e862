import type { Command } from "../kit/commands";

interface Does {
  next: () => void;
  refuse: () => void;
  byHand: () => void;
  newPart: () => void;
  newParts: () => void;
  out: () => void;
  open: () => void;
  ask: () => void;
  waive: () => void;
  mend: () => void;
  certain: () => void;
  undo: () => void;
  board: () => void;
  data: () => void;
  find: () => void;
  files: () => void;
  questions: () => void;
  result: () => void;
  builds: () => void;
  leave: () => void;
}

/** What can be done on an inquiry: its keys, what `?` lists, and what the search finds, from one list. */
export function inquiryCommands(does: Does): Command[] {
  return [
    { keys: "ArrowUp ArrowDown", words: "move from line to line" },
    { keys: "1 to 9, 0", words: "take the part of this number and go to the next undecided line" },
    { keys: "N", words: "to the next undecided line", run: does.next, find: "Next undecided line" },
    { keys: "X", words: "refuse the part whose fields stand open", edits: true, run: does.refuse },
    { keys: "H", words: "look for a part by hand", edits: true, run: does.byHand, find: "Look for a part by hand" },
    { keys: "P", words: "make a new part of the line", edits: true, run: does.newPart, find: "New part of this line" },
    {
      keys: "Shift P",
      words: "new parts of all lines that nothing of ours is like",
      edits: true,
      run: does.newParts,
      find: "New parts of many lines",
    },
    { keys: "O", words: "leave the line out, or open one that was left out", edits: true, run: does.out },
    { keys: "Delete", words: "open a decided line again", edits: true, run: does.open },
    { keys: "M", words: "mend what the line says", edits: true, run: does.mend },
    { keys: "W", words: "let what is found stand, with a reason", edits: true, run: does.waive },
    { keys: "Q", words: "ask the sender", edits: true, run: does.ask },
    {
      keys: "T",
      words: "take all certain pairs, looked at first",
      edits: true,
      run: does.certain,
      find: "Take all certain pairs",
    },
    { keys: "U", words: "take the last step back", edits: true, run: does.undo, find: "Take the last step back" },
    { keys: "Ctrl Z", words: "the same", edits: true, run: does.undo },
    { keys: "D", words: "ask for parts data that are not known yet", run: does.data, find: "Ask for parts data" },
    { keys: "B", words: "the board", run: does.board, find: "The board of this inquiry" },
    { keys: "/", words: "find a line", run: does.find },
    { keys: "F", words: "files", run: does.files, find: "Files of this inquiry" },
    { keys: "E", words: "questions to the sender", run: does.questions, find: "Questions to the sender" },
    { keys: "V", words: "how many are wanted, and by when", run: does.builds, find: "Builds of this inquiry" },
    { keys: "L", words: "the lines as they stand, as a workbook", run: does.leave, find: "These lines as a workbook" },
    { keys: "S", words: "what it becomes", run: does.result, find: "Make sheets of this inquiry" },
  ];
}
