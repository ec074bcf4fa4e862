import type { Line } from "./change";
import type { OperationRow, SheetView } from "./wire";

/** Lines and operations of one product, found by the part they stand on. */
export interface Model {
  view: SheetView;
  lines: Map<number, Line[]>;
  operations: Map<number, OperationRow[]>;
  /** By the key of an operation, what works beside it. */
  beside: Map<string, OperationRow[]>;
}

export function modelOf(view: SheetView): Model {
  const lines = new Map<number, Line[]>();
  const operations = new Map<number, OperationRow[]>();
  const beside = new Map<string, OperationRow[]>();
  for (const line of view.lines) {
    const held = lines.get(line.parent);
    held ? held.push(line) : lines.set(line.parent, [line]);
  }
  for (const operation of view.operations) {
    if (operation.beside !== null) {
      const others = beside.get(operation.beside);
      others ? others.push(operation) : beside.set(operation.beside, [operation]);
      continue;
    }
    const held = operations.get(operation.parent);
    held ? held.push(operation) : operations.set(operation.parent, [operation]);
  }
  for (const held of lines.values()) held.sort((a, b) => a.position - b.position || (a.id < b.id ? -1 : 1));
  for (const held of operations.values()) held.sort((a, b) => a.sequence - b.sequence);
  for (const held of beside.values()) held.sort((a, b) => a.resource - b.resource);
  return { view, lines, operations, beside };
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
