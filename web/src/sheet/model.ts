import type { EditFigures, LineRow, OperationRow, PartRow, SheetHead, SheetView } from "../lib/api";

/** One change of the sheet, as the server takes it; turned round it is its own undo. */
export interface Change {
  table: "line" | "operation" | "sheet";
  id: string | null;
  before: Record<string, unknown> | null;
  after: Record<string, unknown> | null;
}

/** A line on screen. `typedPart` is a number the answer of the server does not know yet. */
export type Line = LineRow & { typedPart?: string };

export interface BandRow {
  kind: "band";
  key: string;
  level: number;
  own: boolean;
  operation: OperationRow;
  /** How many of the part it works on stand in one of the top part, net of losses. */
  share: number;
}

export interface LineRowOnScreen {
  kind: "line";
  key: string;
  level: number;
  own: boolean;
  line: Line;
  part: PartRow | null;
  share: number;
  /** What the job takes along this path. */
  needed: number | null;
  opens: boolean;
  open: boolean;
}

/** The empty rows where typing makes a line or an operation: at the foot, and the one asked for below a row. */
export type NewRow =
  | { kind: "new-line"; key: "new-line" | "new-here"; level: number; own: true }
  /** `name` is that of an operation whose work center is still to be chosen. */
  | { kind: "new-operation"; key: "new-operation"; level: number; own: true; name: string | null };

export type Row = BandRow | LineRowOnScreen | NewRow;

/** Lines and operations of one product, found by the part they stand on. */
export interface Model {
  view: SheetView;
  lines: Map<number, Line[]>;
  operations: Map<number, OperationRow[]>;
}

/** A line's values as the server names them. */
export function lineValues(view: SheetView, line: Line): Record<string, unknown> {
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
    operation,
    position,
  };
}

/** An operation's values as the server names them. */
export function operationValues(operation: OperationRow): Record<string, unknown> {
  const { id: _id, parent: _parent, cost: _c, elements: _e, hours: _h, work_center_name: _w, ...rest } = operation;
  const { lot_setup: _s, lot_run: _r, lot_elapsed: _l, standard_now: _n, ...values } = rest;
  return values;
}

const NEW_LINE = {
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
};

const NEW_OPERATION: Omit<OperationRow, "id" | "parent" | "sequence"> = {
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
  transfer_quantity: null,
  subcontract: null,
  instructions: "",
  files: [],
  standard: null,
  standard_version: null,
  standard_now: null,
  run_from_orders: null,
};

/** What the screen shows while changes are on their way: the last answer with the changes laid on it. */
export function overlay(view: SheetView, changes: Change[]): SheetView {
  if (changes.length === 0) return view;
  const lines = new Map<string, Line>(view.lines.map((line) => [line.id, line]));
  const operations = new Map(view.operations.map((operation) => [operation.id, operation]));
  let sheet = view.sheet;
  for (const { table, id, before, after } of changes) {
    // A row that somebody else took away meanwhile does not come back by being changed.
    if (before && table !== "sheet" && !(table === "line" ? lines : operations).has(id!)) continue;
    if (table === "sheet") sheet = { ...sheet, ...after };
    else if (after === null) (table === "line" ? lines : operations).delete(id!);
    else if (table === "operation") {
      const held = operations.get(id!) ?? { ...NEW_OPERATION, id, parent: view.top, sequence: 0 };
      operations.set(id!, { ...held, ...after } as OperationRow);
    } else {
      const held = lines.get(id!) ?? { ...NEW_LINE, id, parent: view.top, child: -1, position: 0 };
      const next = { ...held, ...after, unit: ("unit" in after ? after.unit : held.unit) || "" } as Line & {
        part?: string;
      };
      if ("part" in after) {
        const number = String(after.part ?? "").toUpperCase();
        next.child = view.parts.findIndex((part) => part.number.toUpperCase() === number);
        next.typedPart = next.child < 0 ? ((after.part as string | null) ?? undefined) : undefined;
      }
      lines.set(id!, next);
    }
  }
  return { ...view, sheet, lines: [...lines.values()], operations: [...operations.values()] };
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
        ? {
            ...change,
            before: held.before === null || change.before === null ? held.before : { ...change.before, ...held.before },
            after: held.after === null || change.after === null ? change.after : { ...held.after, ...change.after },
          }
        : change,
    );
  }
  return [...found.values()];
}

/** A view after an edit: the sheet's own rows anew, the other rows with the figures that are others now. */
export function withEdit(view: SheetView, sheet: SheetHead, edit: EditFigures): SheetView {
  const { stamp, missing, options } = edit;
  const parts = [...view.parts];
  edit.parts.rows.forEach((row, at) => {
    const [cost, this_level, lot, need, routing_days, lead_days, ...elements] = edit.parts.figures[at]!;
    parts[row] = { ...parts[row]!, cost, this_level, lot, need, routing_days, lead_days, elements };
  });
  const line = new Map(edit.lines.keys.map((key, at) => [key, edit.lines.figures[at]!]));
  const operation = new Map(edit.operations.keys.map((key, at) => [key, edit.operations.figures[at]!]));
  const lines = view.lines
    .filter((row) => row.parent !== view.top)
    .map((row) => {
      const figures = line.get(row.id.replaceAll("-", ""));
      if (!figures) return row;
      const [net, gross, cost, ...elements] = figures;
      return { ...row, net, gross, cost, elements: net === null ? null : (elements as number[]) };
    });
  const operations = view.operations
    .filter((row) => row.parent !== view.top)
    .map((row) => {
      const figures = operation.get(row.id.replaceAll("-", ""));
      if (!figures) return row;
      const [cost, hours, lot_setup, lot_run, lot_elapsed, ...elements] = figures;
      return { ...row, cost, hours, lot_setup, lot_run, lot_elapsed, elements };
    });
  return {
    ...view,
    sheet,
    stamp,
    missing,
    options,
    parts,
    lines: [...lines, ...edit.own_lines],
    operations: [...operations, ...edit.own_operations],
  };
}

export function modelOf(view: SheetView): Model {
  const lines = new Map<number, Line[]>();
  const operations = new Map<number, OperationRow[]>();
  for (const line of view.lines) {
    const held = lines.get(line.parent);
    held ? held.push(line) : lines.set(line.parent, [line]);
  }
  for (const operation of view.operations) {
    const held = operations.get(operation.parent);
    held ? held.push(operation) : operations.set(operation.parent, [operation]);
  }
  for (const held of lines.values()) held.sort((a, b) => a.position - b.position || (a.id < b.id ? -1 : 1));
  for (const held of operations.values()) held.sort((a, b) => a.sequence - b.sequence);
  return { view, lines, operations };
}

/** The lines of a part in the order of its operations: those without one are taken at the first. */
export function linesByOperation(model: Model, part: number): [OperationRow | null, Line[]][] {
  const operations = model.operations.get(part) ?? [];
  const lines = model.lines.get(part) ?? [];
  if (operations.length === 0) return [[null, lines]];
  const known = new Set(operations.map((operation) => operation.id));
  return operations.map((operation, index) => [
    operation,
    lines.filter(
      (line) => line.operation === operation.id || (index === 0 && (!line.operation || !known.has(line.operation))),
    ),
  ]);
}

/**
 * The rows on screen.
 * @param open keys of the lines that stand open
 * @param bands operations as bands with their lines beneath, or the lines alone
 * @param keptOff whether lines that are kept off the list of lines alone stand there, too
 * @param fresh below which row an empty line stands, and the name of an operation that is being made
 */
export function visibleRows(
  model: Model,
  open: Set<string>,
  bands: boolean,
  editable: boolean,
  keptOff: boolean,
  fresh: { below: string | null; operation: string | null },
): Row[] {
  const { view } = model;
  const rows: Row[] = [];
  const quantity = view.basis.quantity === null ? 1 : Number(view.basis.quantity);
  const walk = (part: number, path: string, level: number, share: number, needed: number) => {
    const groups: [OperationRow | null, Line[]][] = bands
      ? linesByOperation(model, part)
      : [[null, model.lines.get(part) ?? []]];
    for (const [operation, lines] of groups) {
      if (operation)
        rows.push({ kind: "band", key: `${path}/${operation.id}`, level, own: level === 0, operation, share });
      for (const line of lines) {
        if (!bands && !keptOff && line.kept_off.includes("lines")) continue;
        const key = `${path}/${line.id}`;
        const child = view.parts[line.child] ?? null;
        const counts = line.net !== null && line.net !== undefined;
        const opens =
          line.kind === "component" &&
          child !== null &&
          (model.lines.has(line.child) || model.operations.has(line.child)) &&
          level < 30;
        const isOpen = opens && open.has(key);
        const need = counts ? needed * line.gross! : null;
        rows.push({
          kind: "line",
          key,
          level,
          own: level === 0,
          line,
          part: child,
          share,
          needed: need,
          opens,
          open: isOpen,
        });
        if (isOpen) walk(line.child, key, level + 1, counts ? share * line.net! : 0, need ?? 0);
      }
    }
  };
  walk(view.top, "", 0, 1, quantity);
  if (editable) {
    const at = rows.findIndex((row) => row.key === fresh.below);
    if (at >= 0) {
      // Behind what stands open beneath the row.
      let end = at + 1;
      while (rows[at]!.kind === "line" && rows[end] && rows[end]!.level > 0) end += 1;
      rows.splice(end, 0, { kind: "new-line", key: "new-here", level: 0, own: true });
    }
    rows.push({ kind: "new-line", key: "new-line", level: 0, own: true });
    if (view.parts[view.top]!.kind === "made")
      rows.push({ kind: "new-operation", key: "new-operation", level: 0, own: true, name: fresh.operation });
  }
  return rows;
}
