import type { EditFigures, SheetHead } from "../lib/api";
import type { Change, Line } from "./change";
import { figuresOf, type LineRow, type OperationRow, rowsOf, type SheetView } from "./wire";

/** What a line states of which nothing was said. */
export const NEW_LINE = {
  item: null,
  item_locked: false,
  kind: "component",
  quantity: null,
  unit: "",
  quantity_basis: "per_unit",
  scrap_percent: null,
  yield_percent: null,
  fixed_loss: "0",
  operation: null,
  option: null,
  option_action: "add",
  customer_supplied: false,
  not_fitted: false,
  reference_designators: [],
  effective_from: null,
  effective_to: null,
  text: "",
  kept_off: [],
  cut: "",
};

export const NEW_OPERATION: Omit<OperationRow, "id" | "parent" | "sequence"> = {
  name: "",
  work_center: null,
  work_center_name: null,
  setup_minutes: "0",
  run_minutes: "0",
  run_basis: "per_unit",
  cycle_quantity: null,
  crew: "1",
  setup_crew: "1",
  piece_rate: null,
  yield_percent: "100",
  queue_minutes: "0",
  wait_minutes: "0",
  move_minutes: "0",
  after: [],
  stations: 1,
  any_of_group: false,
  transfer_quantity: null,
  subcontract: null,
  instructions: "",
  files: [],
  beside: null,
  resource: 0,
  standard: null,
  standard_version: null,
  standard_now: null,
  run_from_orders: null,
  run_expression: "",
  cost: null,
  hours: null,
  lot_setup: null,
  lot_run: null,
  lot_elapsed: null,
  elements: null,
};

/** What the screen shows while changes are on their way: the last answer with the changes laid on it. */
export function overlay(view: SheetView, changes: Change[]): SheetView {
  if (changes.length === 0) return view;
  const lines = new Map<string, Line>(view.lines.map((line) => [line.id, line]));
  const operations = new Map(view.operations.map((operation) => [operation.id, operation]));
  let sheet = view.sheet;
  for (const change of changes) {
    const { table, id, before } = change;
    // A row that somebody else took away meanwhile does not come back by being changed.
    if (before && table !== "sheet" && !(table === "line" ? lines : operations).has(id!)) continue;
    if (change.table === "sheet") sheet = { ...sheet, ...change.after } as SheetHead;
    else if (change.after === null) (table === "line" ? lines : operations).delete(id!);
    else if (change.table === "operation") {
      const { after } = change;
      const held = operations.get(id!) ?? { ...NEW_OPERATION, id, parent: view.top, sequence: 0 };
      const next = { ...held, ...after } as OperationRow;
      // Until the server numbers it, the last of those beside its operation.
      if (next.beside !== null && next.resource === 0) next.resource = 1000;
      operations.set(id!, next);
    } else {
      const { after } = change;
      const held = lines.get(id!) ?? { ...NEW_LINE, id, parent: view.top, child: -1, position: 0 };
      const next = { ...held, ...after, unit: ("unit" in after ? after.unit : held.unit) || "" } as Line & {
        part?: string;
      };
      if ("part" in after) {
        const number = String(after.part ?? "").toUpperCase();
        next.child = view.parts.findIndex((part) => part.number.toUpperCase() === number);
        next.typedPart = next.child < 0 ? (after.part ?? undefined) : undefined;
      }
      lines.set(id!, next);
    }
  }
  return { ...view, sheet, lines: [...lines.values()], operations: [...operations.values()] };
}

/** A UUID as rows bear it, of the 32 digits in which it travels. */
const dashed = (key: string) => key.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, "$1-$2-$3-$4-$5");

/** A view after an edit: the sheet's own rows anew, the other rows with the figures that are others now. */
export function withEdit(view: SheetView, sheet: SheetHead, edit: EditFigures): SheetView {
  const { stamp, missing, options } = edit;
  const parts = [...view.parts];
  const figures = figuresOf(edit.parts, edit.parts.rows.length);
  edit.parts.rows.forEach((row, at) => {
    parts[row] = { ...parts[row]!, ...figures[at] };
  });
  const needs = [...view.needs];
  edit.needs.rows.forEach((row, at) => {
    needs[row] = edit.needs.need[at]!;
  });
  const moved = <R extends LineRow | OperationRow>(rows: R[], changed: EditFigures["lines" | "operations"]): R[] => {
    if (changed.keys.length === 0) return rows;
    const laid = figuresOf(changed, changed.keys.length);
    const at = new Map(changed.keys.map((key, i) => [dashed(key), laid[i]]));
    return rows.map((row) => {
      const figures = at.get(row.id);
      return figures ? { ...row, ...figures } : row;
    });
  };
  const others = <R extends LineRow | OperationRow>(rows: R[]) => rows.filter((row) => row.parent !== view.top);
  const ownOperations = edit.own_operations;
  return {
    ...view,
    sheet,
    stamp,
    missing,
    options,
    parts,
    needs,
    lines: [...moved(others(view.lines), edit.lines), ...rowsOf(edit.own_lines)],
    operations: ownOperations
      ? [...moved(others(view.operations), edit.operations), ...rowsOf(ownOperations)]
      : moved(view.operations, edit.operations),
  };
}
