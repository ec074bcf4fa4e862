import type { OperationRow, SheetView } from "../lib/api";
import { typed } from "../lib/number";
import { type Change, type Line, linesByOperation, lineValues, type Model, operationValues } from "./model";

/** Change named fields of a line. */
export function setLine(view: SheetView, line: Line, after: Record<string, unknown>): Change[] {
  const held = lineValues(view, line);
  return set("line", line.id, held, after);
}

/** Change named fields of an operation. A run time that is typed is no longer that of finished orders. */
export function setOperation(operation: OperationRow, after: Record<string, unknown>): Change[] {
  const byHand = ("run_minutes" in after || "run_basis" in after) && !("run_from_orders" in after);
  const values = operationValues(operation);
  return set("operation", operation.id, values, byHand ? { ...after, run_from_orders: null } : after);
}

/**
 * Fields of an operation put at a work center: crews that were those of the center before are those of the new one; a crew
 * that was set by hand stays.
 */
function atCenter(
  operation: { work_center?: unknown; crew?: unknown; setup_crew?: unknown } | null,
  code: string,
  centers: { code: string; crew: string }[],
): Record<string, unknown> {
  const crewOf = (other: unknown) => centers.find((c) => c.code === other)?.crew ?? "1";
  const follow = (held: unknown) =>
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
  operation: { work_center?: unknown; crew?: unknown; setup_crew?: unknown } | null,
  where: string,
  centers: { code: string; crew: string }[],
): Record<string, unknown> {
  if (where !== OUTSIDE) return atCenter(operation, where, centers);
  return {
    work_center: null,
    transfer_quantity: null,
    subcontract: { supplier: "", unit_price: "0", minimum_charge: "0", lead_days: 0 },
  };
}

/** Fields of a line that becomes a note; a note counts nothing and keeps the words of its part. */
export function asNote(text: string): Record<string, unknown> {
  return {
    kind: "text",
    text,
    part: null,
    quantity: null,
    unit: null,
    scrap_percent: null,
    yield_percent: null,
    fixed_loss: "0",
    option: null,
    option_action: "add",
    customer_supplied: false,
    not_fitted: false,
    reference_designators: [],
  };
}

function set(
  table: "line" | "operation",
  id: string,
  held: Record<string, unknown>,
  after: Record<string, unknown>,
): Change[] {
  // How a part would be made is no change of the line.
  const names = Object.keys(after).filter((name) =>
    name === "make"
      ? after.part !== held.part
      : JSON.stringify(held[name] ?? null) !== JSON.stringify(after[name] ?? null),
  );
  if (names.length === 0) return [];
  const pick = (from: Record<string, unknown>) => Object.fromEntries(names.map((name) => [name, from[name] ?? null]));
  return [{ table, id, before: pick(held), after: pick(after) }];
}

/** Where a new line goes: below a line, as the first of an operation, or at the end of the last one. */
export type Below = { line: Line } | { operation: OperationRow } | null;

/** A new line; its id, and the change that makes it. */
export function addLine(model: Model, values: Record<string, unknown>, below: Below): [string, Change[]] {
  const lines = model.lines.get(model.view.top) ?? [];
  const groups = linesByOperation(model, model.view.top);
  const first = below && "operation" in below ? groups.find(([o]) => o?.id === below.operation.id)?.[1][0] : undefined;
  const at = first
    ? lines.indexOf(first) - 1
    : below && "line" in below
      ? lines.findIndex((line) => line.id === below.line.id)
      : lines.length - 1;
  const before = lines[at]?.position ?? (first ? first.position - 1 : 0);
  const next = first || (below && "line" in below) ? lines[at + 1]?.position : undefined;
  const operation =
    below === null
      ? (model.operations.get(model.view.top)?.at(-1)?.id ?? null)
      : "operation" in below
        ? below.operation.id
        : (groups.find(([, held]) => held.some((line) => line.id === below.line.id))?.[0]?.id ?? null);
  const id = crypto.randomUUID();
  const item = Math.max(0, ...lines.map((line) => line.item ?? 0));
  const after = {
    item: Math.floor(item / 10) * 10 + 10,
    kind: "component",
    operation,
    position: next === undefined ? before + 1 : (before + next) / 2,
    ...values,
  };
  return [id, [{ table: "line", id, before: null, after }]];
}

/** New operations at the end, in tens; their ids, and the changes that make them. */
export function addOperations(model: Model, values: Record<string, unknown>[]): [string[], Change[]] {
  const last = model.operations.get(model.view.top)?.at(-1)?.sequence ?? 0;
  const first = Math.floor(last / 10) * 10;
  const changes = values.map((own, i) => ({
    table: "operation" as const,
    id: crypto.randomUUID(),
    before: null,
    after: { sequence: first + 10 * (i + 1), ...own },
  }));
  return [changes.map((change) => change.id), changes];
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

export function removeLine(view: SheetView, line: Line): Change[] {
  return [{ table: "line", id: line.id, before: lineValues(view, line), after: null }];
}

/** Take an operation away; its lines go to the one before it, or the next. */
export function removeOperation(model: Model, operation: OperationRow): Change[] {
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
  return [
    ...moves,
    ...others,
    { table: "operation", id: operation.id, before: operationValues(operation), after: null },
  ];
}

/** Move a line one place up or down; across the edge of an operation it goes to the next operation. */
export function moveLine(model: Model, line: Line, step: 1 | -1): Change[] {
  const groups = linesByOperation(model, model.view.top);
  const at = groups.findIndex(([, lines]) => lines.some((other) => other.id === line.id));
  const lines = groups[at]?.[1] ?? [];
  const neighbour = lines[lines.findIndex((other) => other.id === line.id) + step];
  if (neighbour)
    return [
      ...setLine(model.view, line, { position: neighbour.position }),
      ...setLine(model.view, neighbour, { position: line.position }),
    ];
  const next = groups[at + step];
  if (!next?.[0]) return [];
  const edge = step < 0 ? next[1].at(-1)?.position : next[1][0]?.position;
  const position =
    edge === undefined
      ? line.position
      : step < 0
        ? Math.max(edge + 0.5, line.position)
        : Math.min(edge - 0.5, line.position);
  return setLine(model.view, line, { operation: next[0].id, position });
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

/** What was typed as a loss: "5" or "5 %" is scrap, "yield 98" a yield, nothing is none. */
export function readLoss(text: string): Record<string, string | null> {
  const number = typed(text.replace(/yield|scrap|%/gi, "")) || null;
  return /yield/i.test(text)
    ? { yield_percent: number, scrap_percent: null }
    : { scrap_percent: number, yield_percent: null };
}

/** What was typed as an option: "SYNC" adds the line with it, "less SYNC" takes it away. */
export function readOption(text: string): Record<string, string | null> {
  const code = text.replace(/^\s*(less|with)\s+/i, "").trim() || null;
  return { option: code, option_action: /^\s*less\s/i.test(text) ? "remove" : "add" };
}

/** The place between two lines, for `count` lines in a row. */
function between(before: number | undefined, after: number | undefined, count: number): number[] {
  const low = before ?? (after === undefined ? 0 : after - count - 1);
  const high = after ?? low + count + 1;
  return Array.from({ length: count }, (_, i) => low + ((high - low) * (i + 1)) / (count + 1));
}

/**
 * Put lines, in their order, at an operation: before one of its lines, or at its end.
 * @param before null puts them at the end of the operation
 */
export function placeLines(model: Model, lines: Line[], operation: string | null, before: Line | null): Change[] {
  const moving = new Set(lines.map((line) => line.id));
  const all = (model.lines.get(model.view.top) ?? []).filter((line) => !moving.has(line.id));
  const group = linesByOperation(model, model.view.top).find(([o]) => (o?.id ?? null) === operation);
  const rest = (group?.[1] ?? all).filter((line) => !moving.has(line.id));
  const at = before ? all.findIndex((line) => line.id === before.id) : -1;
  const positions =
    at >= 0
      ? between(all[at - 1]?.position, all[at]!.position, lines.length)
      : between(
          rest.at(-1)?.position ?? all.at(-1)?.position,
          all.find((line) => line.position > (rest.at(-1)?.position ?? Number.POSITIVE_INFINITY))?.position,
          lines.length,
        );
  return lines.flatMap((line, i) => setLine(model.view, line, { operation, position: positions[i] }));
}

/** Move lines that stand together one place up or down; at the edge of an operation they go to the next one. */
export function moveLines(model: Model, lines: Line[], step: 1 | -1): Change[] {
  if (lines.length === 1) return moveLine(model, lines[0]!, step);
  const groups = linesByOperation(model, model.view.top);
  const at = groups.findIndex(([, held]) => held.some((line) => line.id === lines[0]!.id));
  const held = groups[at]?.[1] ?? [];
  const places = lines.map((line) => held.findIndex((other) => other.id === line.id));
  // Lines of several operations have no one place to go to.
  if (places.includes(-1)) return [];
  const edge = step < 0 ? Math.min(...places) : Math.max(...places);
  const neighbour = held[edge + step];
  const operation = groups[at]?.[0]?.id ?? null;
  if (neighbour) {
    const next = step < 0 ? neighbour : (held[edge + 2] ?? null);
    return placeLines(model, lines, lines[0]!.operation ?? operation, next);
  }
  const other = groups[at + step];
  if (!other?.[0]) return [];
  return placeLines(model, lines, other[0].id, step < 0 ? null : (other[1][0] ?? null));
}

/** Lines as they leave for another sheet: their values, with the operation by its number. */
export function copiedLines(model: Model, lines: Line[]): Record<string, unknown>[] {
  const sequence = new Map(model.view.operations.map((o) => [o.id, o.sequence]));
  return lines.map((line) => {
    const { position: _p, operation, ...values } = lineValues(model.view, line);
    return { ...values, issue_at: operation ? (sequence.get(String(operation)) ?? null) : null };
  });
}

/** Changes that put lines from elsewhere below `below`, or at the end; each at the operation of its number if there is one. */
export function pasteLines(model: Model, values: Record<string, unknown>[], below: Line | null): Change[] {
  const { view } = model;
  const lines = model.lines.get(view.top) ?? [];
  const operations = model.operations.get(view.top) ?? [];
  const at = below ? lines.findIndex((line) => line.id === below.id) : lines.length - 1;
  const positions = between(lines[at]?.position ?? 0, lines[at + 1]?.position, values.length);
  let item = Math.floor(Math.max(0, ...lines.map((line) => line.item ?? 0)) / 10) * 10;
  const fallback = below?.operation ?? operations.at(-1)?.id ?? null;
  return values.map(({ issue_at, item: own, ...rest }, i) => {
    item += 10;
    const operation = operations.find((o) => o.sequence === issue_at)?.id ?? fallback;
    return {
      table: "line" as const,
      id: crypto.randomUUID(),
      before: null,
      after: { kind: "component", ...rest, item: own ?? item, operation, position: positions[i] },
    };
  });
}

/**
 * New item numbers for the lines of the sheet, in list order; locked ones keep theirs, and nobody else gets it.
 * @param ranges where the numbers of a class begin, when not with the others
 */
export function renumber(
  model: Model,
  start: number,
  step: number,
  ranges: Record<string, number>,
): { line: Line; item: number }[] {
  const { view } = model;
  const lines = linesByOperation(model, view.top).flatMap(([, held]) => held);
  const locked = new Set(lines.filter((line) => line.item_locked).map((line) => line.item));
  const next: Record<string, number> = { "": start, ...ranges };
  return lines
    .filter((line) => !line.item_locked)
    .map((line) => {
      const partClass = view.parts[line.child]?.part_class ?? "";
      const run = partClass in ranges ? partClass : "";
      let item = next[run]!;
      while (locked.has(item)) item += step;
      next[run] = item + step;
      return { line, item };
    });
}

/** A step in words: which row, and what was typed. */
export function wordsOf(view: SheetView, changes: Change[]): string {
  const change = changes[0];
  if (!change) return "";
  const line = (view.lines as Line[]).find((other) => other.id === change.id);
  const operation = view.operations.find((other) => other.id === change.id);
  const row = line
    ? `item ${line.item ?? ""} ${line.typedPart ?? view.parts[line.child]?.number ?? line.text}`.trim()
    : operation
      ? `operation ${operation.sequence}`
      : change.table;
  const typedIn = Object.entries(change.after ?? {})
    .slice(0, 2)
    .map(([name, value]) => `${name.replaceAll("_", " ")} ${value === null || value === "" ? "empty" : String(value)}`);
  return `${row}: ${change.after === null ? "take away" : typedIn.join(", ")}`;
}
