import { type Change, type OperationValues, operationValues } from "./change";
import { setLine } from "./lines";
import { linesByOperation, type Model } from "./product";
import { set } from "./set";
import type { OperationRow } from "./wire";

/** A run time per cycle needs to know what one cycle holds: one piece until it is said. */
export function withCycle(held: Pick<OperationValues, "cycle_quantity">, after: OperationValues): OperationValues {
  const asks = after.run_basis === "per_cycle" && !held.cycle_quantity && !after.cycle_quantity;
  return asks ? { ...after, cycle_quantity: "1" } : after;
}

/** Change named fields of an operation. A run time that is typed is no longer that of finished orders, nor what was computed. */
export function setOperation(operation: OperationRow, after: OperationValues): Change[] {
  const timed = "run_minutes" in after || "run_basis" in after;
  const values = operationValues(operation);
  const next = withCycle(values, after);
  return set("operation", operation.id, values, timed ? { run_from_orders: null, run_expression: "", ...next } : next);
}

type AtCenter = Pick<OperationValues, "work_center" | "crew" | "setup_crew">;

/**
 * Fields of an operation put at a work center: crews that were those of the center before are those of the new one; a crew
 * that was set by hand stays.
 */
function atCenter(
  operation: AtCenter | null,
  code: string,
  centers: { code: string; crew: string }[],
): OperationValues {
  const crewOf = (other?: string | null) => centers.find((c) => c.code === other)?.crew ?? "1";
  const follow = (held: OperationValues["crew"]) =>
    held === undefined || Number(held) === Number(crewOf(operation?.work_center)) ? crewOf(code) : held;
  return {
    work_center: code,
    subcontract: null,
    crew: follow(operation?.crew),
    setup_crew: follow(operation?.setup_crew),
  };
}

/** What stands for "by a supplier" where a work center is chosen. */
export const OUTSIDE = "outside";

/** Fields of an operation done at a work center, or outside. */
export function doneAt(
  operation: AtCenter | null,
  where: string,
  centers: { code: string; crew: string }[],
): OperationValues {
  if (where !== OUTSIDE) return atCenter(operation, where, centers);
  return {
    work_center: null,
    transfer_quantity: null,
    any_of_group: false,
    subcontract: { supplier: "", unit_price: "0", minimum_charge: "0", lead_days: 0 },
  };
}

/** An operation with what works beside it, as it is put on a routing. */
export type WithResources = OperationValues & { resources?: OperationValues[] };

/** New operations at the end, in tens, with what works beside each as its `resources`; their ids, and the changes that make them. */
export function addOperations(model: Model, values: WithResources[]): [string[], Change[]] {
  const last = model.operations.get(model.view.top)?.at(-1)?.sequence ?? 0;
  const first = Math.floor(last / 10) * 10;
  const made = values.map(({ resources, ...own }, i) => ({
    id: crypto.randomUUID(),
    after: { sequence: first + 10 * (i + 1), ...own },
    beside: resources ?? [],
  }));
  const operations = made.map(({ id, after }): Change => ({ table: "operation", id, before: null, after }));
  const resources = made.flatMap(({ id, beside }) => beside.flatMap((own) => addResource(id, own)[1]));
  return [made.map(({ id }) => id), [...operations, ...resources]];
}

/** What works beside an operation: its id, and the change that makes it. */
export function addResource(operation: string, values: OperationValues): [string, Change[]] {
  const id = crypto.randomUUID();
  const { subcontract: _s, resource: _r, beside: _b, ...own } = values;
  return [id, [{ table: "operation", id, before: null, after: { beside: operation, ...own } }]];
}

/** What an operation states, with what works beside it, to be put on a routing anew. */
export function copiedOperation(model: Model, operation: OperationRow): WithResources {
  const { sequence: _q, after: _a, beside: _b, resource: _r, ...values } = operationValues(operation);
  const beside = (model.beside.get(operation.id) ?? []).map((o) => copiedOperation(model, o));
  return beside.length > 0 ? { ...values, resources: beside } : values;
}

/** The operations that one follows: those it names, or the one before it in the list. */
export function predecessors(operations: OperationRow[], operation: OperationRow): OperationRow[] {
  if (operation.after.length > 0) return operations.filter((o) => operation.after.includes(o.sequence));
  const before = operations[operations.findIndex((o) => o.id === operation.id) - 1];
  return before ? [before] : [];
}

/** What is named as followed, as short as it can be said: the one before it in the list goes without saying. */
export function followed(operations: OperationRow[], operation: OperationRow, sequences: number[]): number[] {
  const before = operations[operations.findIndex((o) => o.id === operation.id) - 1]?.sequence;
  const named = [...new Set(sequences)].sort((a, b) => a - b);
  return named.length === 1 && named[0] === before ? [] : named;
}

/** Operations get other numbers; whoever names them as followed names the new ones. */
export function resequence(operations: OperationRow[], numbers: Map<number, number>): Change[] {
  return operations.flatMap((o) =>
    setOperation(o, {
      sequence: numbers.get(o.sequence) ?? o.sequence,
      after: o.after.map((sequence) => numbers.get(sequence) ?? sequence),
    }),
  );
}

/** Take an operation away, with what works beside it; its lines go to the one before it, or the next. */
export function removeOperation(model: Model, operation: OperationRow): Change[] {
  const gone = [operation, ...(model.beside.get(operation.id) ?? [])].map(
    (o): Change => ({ table: "operation", id: o.id, before: operationValues(o), after: null }),
  );
  if (operation.beside !== null) return gone;
  const groups = linesByOperation(model, model.view.top);
  const at = groups.findIndex(([o]) => o?.id === operation.id);
  const heir = groups[at - 1]?.[0] ?? groups[at + 1]?.[0] ?? null;
  const moves = (groups[at]?.[1] ?? []).flatMap((line) => setLine(model.view, line, { operation: heir?.id ?? null }));
  // Whoever followed it follows what it followed.
  const operations = model.operations.get(model.view.top) ?? [];
  const before = predecessors(operations, operation).map((o) => o.sequence);
  const others = operations
    .filter((o) => o.after.includes(operation.sequence))
    .flatMap((o) =>
      setOperation(o, {
        after: [...new Set([...o.after.filter((s) => s !== operation.sequence), ...before])].sort((a, b) => a - b),
      }),
    );
  return [...moves, ...others, ...gone];
}

/** Change places with the operation before or after; lines go along. */
export function moveOperation(model: Model, operation: OperationRow, step: 1 | -1): Change[] {
  const operations = model.operations.get(model.view.top) ?? [];
  const other = operations[operations.findIndex((o) => o.id === operation.id) + step];
  if (!other) return [];
  return resequence(
    operations,
    new Map([
      [operation.sequence, other.sequence],
      [other.sequence, operation.sequence],
    ]),
  );
}
