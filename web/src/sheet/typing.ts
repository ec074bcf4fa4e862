import type { LineValues } from "../model/change";
import { addLine, asNote, type Below, setLine } from "../model/lines";
import { addOperations, addResource, doneAt, resequence, setOperation } from "../model/operations";
import type { Row } from "../model/rows";
import { BAND_CELLS } from "./grid/bandCells";
import { partEditOf } from "./grid/cells";
import type { ReadWork } from "./useWork";

/** What was typed into a cell, as changes; `make` is the kind of a part that is to be made. */
export function keepTyped(work: ReadWork, at: Row, column: string, text: string, make: LineValues["make"] = "bought") {
  const { queue, view } = work;
  work.refused.clear();
  const clean = text.trim();
  if (at.kind === "new-line") newLine(work, at.key === "new-here", column, clean, make);
  else if (at.kind === "new-operation") newOperation(work, column, clean);
  else if (at.kind === "new-resource") {
    const [id, changes] = addResource(at.operation.id, doneAt(null, clean, work.centers));
    work.setBeside(null);
    queue.edit(changes);
    work.place({ row: `/${id}`, column: "setup" });
  } else if (at.kind === "line") {
    const found = work.columns.find((c) => c.key === column);
    const ofPart = partEditOf(found, at);
    if (ofPart)
      work.parts.change(at.part!.number, ofPart.apply(clean), (error) => {
        work.place({ row: at.key, column });
        work.setEditing({ text: clean, error });
      });
    else queue.edit(setLine(view, at.line, found?.edit?.apply(clean, at, make) ?? {}));
  } else {
    const fields = BAND_CELLS.find((c) => c.key === column)?.edit?.apply(clean, at, work.centers) ?? {};
    const next = fields.sequence;
    const own = work.operations;
    // A number that is free goes along where other operations name it as followed.
    const free = typeof next === "number" && !own.some((o) => o.sequence === next);
    queue.edit(free ? resequence(own, new Map([[at.operation.sequence, next]])) : setOperation(at.operation, fields));
  }
}

function newLine(work: ReadWork, here: boolean, column: string, text: string, make: LineValues["make"]) {
  const above = here ? work.rows.find((r) => r.key === work.newBelow) : undefined;
  const below: Below =
    above?.kind === "line" ? { line: above.line } : above?.kind === "band" ? { operation: above.operation } : null;
  const note = column === "description";
  const [id, changes] = addLine(work.model, note ? asNote(text) : { part: text, make, quantity: "1" }, below);
  work.queue.edit(changes);
  work.place({ row: `/${id}`, column: note ? "description" : "quantity" });
}

/** First its name, then its work center; with both it is made. */
function newOperation(work: ReadWork, column: string, text: string) {
  // Whoever types before they are read has not been told that there is none.
  if (work.centersRead && work.centers.length === 0) {
    work.say("An operation is done at a work center, and there is none yet.", {
      bad: true,
      act: { label: "Make a work center", run: () => work.navigate("/work-centers?new=1") },
    });
  } else if (column === "name") {
    work.setNewOperation(text);
    work.place({ row: "new-operation", column: "center" });
    work.setEditing({ text: "" });
  } else {
    const [[id], changes] = addOperations(work.model, [
      { name: work.newOperation, ...doneAt(null, text, work.centers) },
    ]);
    work.setNewOperation(null);
    work.queue.edit(changes);
    work.place({ row: `/${id}`, column: "setup" });
  }
}
