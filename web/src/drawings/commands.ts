import type { Command } from "../kit/commands";

interface Does {
  away: () => void;
  undo: () => void;
  balloons: () => void;
  numbers: () => void;
  none: () => void;
  pdf: () => void;
}

/** What can be done on a drawing: its keys, what `?` lists, and what the search finds, from one list. */
export function drawingCommands(does: Does): Command[] {
  return [
    { keys: "Tab", words: "from view to view and balloon to balloon" },
    { keys: "ArrowUp ArrowDown", words: "move what is chosen by 1 mm, with Shift by 10" },
    { keys: "Delete", words: "take the chosen balloon or view away", edits: true, run: does.away },
    {
      keys: "Ctrl Z",
      words: "take the last step back",
      edits: true,
      run: does.undo,
      find: "Take the last step of the drawing back",
    },
    { keys: "B", words: "put the balloons", edits: true, run: does.balloons, find: "Put the balloons" },
    { keys: "N", words: "number by position", run: does.numbers, find: "Number the items by position" },
    { keys: "P", words: "the drawing as PDF", run: does.pdf, find: "The drawing as PDF" },
    { keys: "Escape", words: "choose nothing", run: does.none },
  ];
}
