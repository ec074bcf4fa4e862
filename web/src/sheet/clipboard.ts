import type { ClipboardEvent } from "react";
import { type CopiedLine, copiedLines, pasteLines, placeLines } from "../model/lines";
import { addOperations, copiedOperation, type WithResources } from "../model/operations";
import { linesByOperation } from "../model/product";
import type { LineRowOnScreen, Row } from "../model/rows";
import type { ReadWork } from "./useWork";

/** Lines of a sheet on the clipboard, whole; beside them stands plain text for spreadsheets. */
const LINES_TYPE = "application/x-build-sheet-lines";
const OPERATION_TYPE = "application/x-build-sheet-operation";

const counted = (n: number, word: string) => `${n} ${n === 1 ? word : `${word}s`}`;

export function copy(work: ReadWork, event: ClipboardEvent) {
  const { chosen, model, row } = work;
  if (!work.editing && row?.kind === "band" && row.operation.beside === null && !work.anchor) {
    event.preventDefault();
    const { sequence, name, setup_minutes, run_minutes } = row.operation;
    event.clipboardData.setData(OPERATION_TYPE, JSON.stringify(copiedOperation(model, row.operation)));
    event.clipboardData.setData("text/plain", [sequence, name, setup_minutes, run_minutes].join("\t"));
    work.say(`Copied operation ${sequence}, for this routing or another.`);
    return;
  }
  if (work.editing || chosen.length === 0) return;
  event.preventDefault();
  const lines = chosen.map((r) => r.line);
  event.clipboardData.setData(LINES_TYPE, JSON.stringify(copiedLines(model, lines)));
  const cells = chosen.map((r) => [
    r.line.item ?? "",
    r.part?.number ?? "",
    r.line.kind === "text" ? r.line.text : (r.part?.description ?? ""),
    r.line.quantity ?? "",
    r.line.unit || r.part?.unit || "",
    r.line.scrap_percent ?? "",
    r.line.reference_designators.join(", "),
  ]);
  const heads = ["Item", "Part", "Description", "Quantity", "Unit", "Scrap %", "Reference designators"];
  event.clipboardData.setData("text/plain", [heads, ...cells].map((row) => row.join("\t")).join("\n"));
  work.say(`Copied ${counted(lines.length, "line")}, for another sheet or a spreadsheet.`);
}

/** Lines of our own come in at once; rows of a spreadsheet are looked at first. */
export function paste(work: ReadWork, event: ClipboardEvent) {
  if (work.editing) return;
  event.preventDefault();
  if (!work.editable) {
    work.sayLocked();
    return;
  }
  const own = event.clipboardData.getData(LINES_TYPE);
  const operation = event.clipboardData.getData(OPERATION_TYPE);
  if (operation) bringOperations(work, [JSON.parse(operation)]);
  else if (own) bringLines(work, JSON.parse(own));
  else {
    work.setPasted(event.clipboardData.getData("text/plain"));
    work.setAside("pasted");
  }
}

/** Put lines in below the one at the cursor, as one step. */
export function bringLines(work: ReadWork, values: CopiedLine[]) {
  const { row, queue } = work;
  queue.edit(pasteLines(work.model, values, row?.kind === "line" && row.own ? row.line : null));
  work.say(`Put ${counted(values.length, "line")} in.`, { act: { label: "Undo", run: () => queue.undo() } });
}

/** Put operations at the end of the routing, as one step. */
export function bringOperations(work: ReadWork, values: WithResources[]) {
  const { queue } = work;
  const [[first], changes] = addOperations(work.model, values);
  queue.edit(changes);
  work.place({ row: `/${first}`, column: "name" });
  // The dialog gives the focus back to what opened it, first.
  window.setTimeout(() => work.grid.current?.focus(), 60);
  work.say(`Put ${counted(values.length, "operation")} on the routing.`, {
    act: { label: "Undo", run: () => queue.undo() },
  });
}

/** Lines that were dragged onto a row of the sheet itself. */
export function drop(work: ReadWork, moved: LineRowOnScreen, at: Row) {
  const { model, view, chosen, chosenKeys } = work;
  if (!work.editable || (at.kind !== "line" && at.kind !== "band") || !at.own) return;
  const lines = chosenKeys.has(moved.key) ? chosen.map((r) => r.line) : [moved.line];
  if (at.kind === "line" && lines.some((line) => line.id === at.line.id)) return;
  const operation = at.kind === "band" ? at.operation.id : at.line.operation;
  const first =
    at.kind === "band" ? (linesByOperation(model, view.top).find(([o]) => o?.id === operation)?.[1][0] ?? null) : null;
  work.queue.edit(placeLines(model, lines, operation, at.kind === "line" ? at.line : first));
}
