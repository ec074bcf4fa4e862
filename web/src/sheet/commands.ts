import type { KeyboardEvent } from "react";
import { type Command, matches } from "../kit/commands";
import { moveLines, removeLine } from "../model/lines";
import { moveOperation, removeOperation } from "../model/operations";
import { COLUMN_SETS } from "./grid/columns";
import { READINGS, type Reading } from "./readings/reading";
import type { Aside, ReadWork } from "./useWork";

/** Keys that the grid itself knows. */
const OF_THE_GRID: Command[] = [
  { keys: "ArrowUp ArrowDown ArrowLeft ArrowRight", words: "move from cell to cell" },
  { keys: "Enter or F2", words: "edit the cell; Enter again keeps it" },
  { keys: "type", words: "replace what is in the cell" },
  { keys: "Tab", words: "keep it and go on to the next cell" },
  { keys: "Space", words: "open or close a line in place" },
  { keys: "Shift ArrowUp ArrowDown", words: "choose several lines" },
  { keys: "1 to 9, 0", words: "in the overview: open to that level; 0 opens all of it" },
  { keys: "Ctrl C, Ctrl V", words: "copy lines, or an operation; paste them, or rows of a spreadsheet" },
];

const ASIDES: [key: string, aside: Aside, words: string, find?: string][] = [
  ["D", "details", "every field of the line or operation"],
  ["O", "order", "the order of work: Enter on one operation, Enter on one that follows it", "Order of work"],
  ["I", "instructions", "instructions of the operation", "Instructions of the operation"],
  ["M", "measured", "measured times of the operation", "Measured times of the operation"],
  ["X", "computed", "the run time of the operation from fields", "Run time of the operation from fields"],
  ["F", "findings", "what the checks found here and below", "Findings of this sheet"],
  ["W", "working", "into the working beside the sheet"],
];

/** What can be done on a sheet: its keys, what `?` lists, and what the search finds, from one list. */
export function sheetCommands(work: ReadWork): Command[] {
  const { row: at, queue, view, model, say } = work;
  const said = (done: boolean, words: string) => {
    if (!done) say(words);
  };
  const sets = COLUMN_SETS.filter((set) => work.costs || set !== "cost");
  const readings = Object.entries(READINGS).filter(([reading]) => work.costs || reading !== "cost");
  return [
    ...OF_THE_GRID,
    {
      keys: "Ctrl Enter",
      words: "new line below; on an operation, its first one",
      edits: true,
      run: () => newLine(work, "part"),
    },
    { keys: "Alt T", words: "new note below", edits: true, run: () => newLine(work, "description") },
    {
      keys: "Ctrl Shift Enter",
      words: "new operation",
      edits: true,
      run: () => {
        work.place({ row: "new-operation", column: "name" });
        work.setEditing({ text: "" });
      },
    },
    {
      keys: "Alt B",
      words: "a work center beside the operation, at the same time",
      find: "A work center beside the operation",
      edits: true,
      run: () => beside(work),
    },
    { keys: "Alt ArrowUp", words: "move the line or operation up", edits: true, run: () => move(work, -1) },
    { keys: "Alt ArrowDown", words: "move the line or operation down", edits: true, run: () => move(work, 1) },
    { keys: "Delete", words: "take the line or operation away", edits: true, run: () => takeAway(work) },
    { keys: "Ctrl Z", words: "undo", edits: true, run: () => said(queue.undo(), "There is nothing to undo.") },
    { keys: "Ctrl Y", words: "redo", edits: true, run: () => said(queue.redo(), "There is nothing to redo.") },
    {
      keys: "Alt Enter",
      words: "go to the sheet of the part on the line",
      run: () => at?.kind === "line" && at.part && work.goTo(at.part),
    },
    {
      keys: "Alt P",
      words: "all of the part on the line",
      run: () => {
        const part = at?.kind === "line" ? at.part : view.parts[view.top];
        if (part) work.navigate(`/part/${encodeURIComponent(part.number)}`);
      },
    },
    ...ASIDES.map(([key, aside, words, find]) => ({
      keys: `Alt ${key}`,
      words,
      find,
      run: () => openAside(work, aside),
    })),
    {
      keys: "Alt V",
      words: "operations with their lines, or lines alone",
      run: () => work.setReading(work.reading === "operations" ? "lines" : "operations"),
    },
    {
      keys: "Alt C",
      words: `columns for the next reader: ${sets.join(", ")}`,
      run: () => work.setColumnSet(sets[(sets.indexOf(work.columnSet) + 1) % sets.length]!),
    },
    ...readings.map(([reading, words]) => ({
      words,
      find: `Read ${view.sheet.part}: ${words}`,
      run: () => work.setReading(reading as Reading),
    })),
    { words: "history of the sheet", find: `History of ${view.sheet.part}`, run: () => work.setVerb("history") },
    {
      words: "renumber the items",
      find: "Renumber the items",
      edits: true,
      run: () => model && work.setVerb("renumber"),
    },
  ];
}

/** What a key does on the sheet; answers whether it did something. */
export function press(work: ReadWork, event: KeyboardEvent): boolean {
  const handled = pressed(work, event);
  if (handled) event.preventDefault();
  return handled;
}

function pressed(work: ReadWork, event: KeyboardEvent): boolean {
  const { row: at, rows, editable } = work;
  if (event.key === "Escape") return leave(work);
  if (event.shiftKey && !event.ctrlKey && !event.altKey && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
    const next = rows[rows.findIndex((r) => r.key === work.cursor.row) + (event.key === "ArrowDown" ? 1 : -1)];
    if (next) work.extend(next.key);
    return true;
  }
  const ctrl = event.ctrlKey || event.metaKey;
  const redo = ctrl && event.shiftKey && event.key.toLowerCase() === "z";
  const command = sheetCommands(work).find((c) => c.run && c.keys && matches(event, redo ? "Ctrl Y" : c.keys));
  const asked = redo ? sheetCommands(work).find((c) => c.keys === "Ctrl Y") : command;
  if (asked?.run) {
    if (asked.edits && !editable) work.sayLocked();
    else asked.run();
    return true;
  }
  const types =
    event.key.length === 1 ? event.key !== " " && event.key !== "?" : ["Enter", "F2", "Backspace"].includes(event.key);
  if (!editable && types && !ctrl && !event.altKey && (at?.kind === "line" || at?.kind === "band")) {
    work.sayLocked();
    return true;
  }
  return false;
}

/** Out of a ring, a choice of several, an empty line that nobody wants. */
function leave(work: ReadWork): boolean {
  if (work.leaveRing.current) work.leaveRing.current();
  else if (work.anchor !== null) work.setAnchor(null);
  else if (work.newBelow !== null) work.place({ row: work.newBelow, column: "part" });
  else if (work.cursor.row === "new-resource") work.place({ row: `/${work.beside}`, column: "name" });
  else return false;
  return true;
}

/** An empty line below a row of the sheet itself; at the foot where there is none. */
function newLine(work: ReadWork, column: string) {
  const { row: at } = work;
  const below = at?.own && (at.kind === "line" || at.kind === "band") ? at.key : null;
  work.setAnchor(null);
  work.setWhole(false);
  work.setNewBelow(below);
  work.setCursor({ row: below ? "new-here" : "new-line", column });
  work.setEditing({ text: "" });
}

/** An empty row for what is to work beside the operation at the cursor. */
export function beside(work: ReadWork) {
  const { operation } = work;
  if (!operation || operation.parent !== work.view.top || operation.subcontract) {
    work.say("Go to an operation of this sheet that is done at a work center.", { bad: true });
    return;
  }
  work.setAnchor(null);
  work.setWhole(false);
  work.setBeside(operation.id);
  work.setCursor({ row: "new-resource", column: "center" });
  work.setEditing({ text: "" });
}

function openAside(work: ReadWork, aside: Aside) {
  work.setAside(aside);
  window.setTimeout(
    () =>
      work.side.current?.querySelector<HTMLElement>("[data-operation][tabindex='0'], input, select, button")?.focus(),
    30,
  );
}

function move(work: ReadWork, step: 1 | -1) {
  const { row: at, chosen, model, queue } = work;
  if (!at?.own) return;
  if (at.kind === "line" && chosen.length > 0) {
    const moved = moveLines(
      model,
      chosen.map((r) => r.line),
      step,
    );
    if (moved.length === 0 && chosen.length > 1) work.say("Lines of several operations have no one place to go to.");
    queue.edit(moved);
  }
  if (at.kind === "band" && at.operation.beside === null) queue.edit(moveOperation(model, at.operation, step));
}

function takeAway(work: ReadWork) {
  const { row: at, rows, chosen, view, model, queue, say } = work;
  const undo = { act: { label: "Undo", run: () => queue.undo() } };
  if (at?.kind === "new-operation") {
    work.setNewOperation(null);
    work.place({ row: "new-operation", column: "name" });
    return;
  }
  if (!at?.own || (at.kind !== "line" && at.kind !== "band")) return;
  const next = rows[rows.indexOf(chosen.at(-1) ?? at) + 1];
  if (chosen.length > 1) {
    queue.edit(chosen.flatMap((r) => removeLine(view, r.line)));
    say(`Took ${chosen.length} lines away.`, undo);
  } else if (at.kind === "line") {
    queue.edit(removeLine(view, at.line));
    say(`Took item ${at.line.item ?? ""} ${at.part?.number ?? ""} away.`, undo);
  } else {
    queue.edit(removeOperation(model, at.operation));
    const { sequence, beside: of, work_center } = at.operation;
    say(`Took ${of === null ? `operation ${sequence}` : `${work_center} beside operation ${sequence}`} away.`, undo);
  }
  if (next) work.place({ row: next.key, column: work.cursor.column });
}
