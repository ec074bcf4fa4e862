import type { Schemas } from "../lib/api";
import type { LineRow, OperationRow, SheetView } from "./wire";

/** One change of the sheet, as the server takes it; turned round it is its own undo. */
type Changed<Table, Edit> = { table: Table; id: string | null; before: Edit | null; after: Edit | null };
export type LineValues = Schemas["LineEdit"];
export type OperationValues = Schemas["OperationEdit"];
export type HeadValues = Schemas["HeadEdit"];
export type Change = Changed<"line", LineValues> | Changed<"operation", OperationValues> | Changed<"sheet", HeadValues>;

/** A line on screen. `typedPart` is a number the answer of the server does not know yet. */
export type Line = LineRow & { typedPart?: string };

/** A line's values as the server names them. */
export function lineValues(view: SheetView, line: Line): LineValues {
  const {
    item,
    item_locked,
    kind,
    quantity,
    quantity_basis,
    scrap_percent,
    yield_percent,
    fixed_loss,
    option,
    option_action,
  } = line;
  const {
    customer_supplied,
    not_fitted,
    reference_designators,
    effective_from,
    effective_to,
    text,
    kept_off,
    cut,
    operation,
    position,
  } = line;
  return {
    item,
    item_locked,
    kind,
    part: line.typedPart ?? view.parts[line.child]?.number ?? null,
    quantity,
    unit: line.unit || null,
    quantity_basis,
    scrap_percent,
    yield_percent,
    fixed_loss,
    option,
    option_action,
    customer_supplied,
    not_fitted,
    reference_designators,
    effective_from,
    effective_to,
    text,
    kept_off,
    cut,
    operation,
    position,
  };
}

/** An operation's values as the server names them. */
export function operationValues(operation: OperationRow): OperationValues {
  const { id: _id, parent: _parent, cost: _c, elements: _e, hours: _h, work_center_name: _w, ...rest } = operation;
  const { lot_setup: _s, lot_run: _r, lot_elapsed: _l, standard_now: _n, ...values } = rest;
  return values;
}

/** Changes after one another as one for each row: what the first found, and what the last leaves. */
export function merged(changes: Change[]): Change[] {
  const found = new Map<string, Change>();
  for (const change of changes) {
    const key = `${change.table} ${change.id}`;
    const held = found.get(key);
    found.set(
      key,
      held
        ? ({
            ...change,
            before: held.before === null || change.before === null ? held.before : { ...change.before, ...held.before },
            after: held.after === null || change.after === null ? change.after : { ...held.after, ...change.after },
            // Both are of the same row, and so of one table.
          } as Change)
        : change,
    );
  }
  return [...found.values()];
}
