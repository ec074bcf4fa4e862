import { typed } from "../lib/number";
import { type Change, type Line, type LineValues, lineValues } from "./change";
import { linesByOperation, type Model } from "./product";
import { set } from "./set";
import type { OperationRow, SheetView } from "./wire";

/** Change named fields of a line. */
export function setLine(view: SheetView, line: Line, after: LineValues): Change[] {
  const held = lineValues(view, line);
  return set("line", line.id, held, after);
}

/** Fields of a line that becomes a note; a note counts nothing and keeps the words of its part. */
export function asNote(text: string): LineValues {
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

/** Where a new line goes: below a line, as the first of an operation, or at the end of the last one. */
export type Below = { line: Line } | { operation: OperationRow } | null;

/** A new line; its id, and the change that makes it. */
export function addLine(model: Model, values: LineValues, below: Below): [string, Change[]] {
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
  const after: LineValues = {
    item: Math.floor(item / 10) * 10 + 10,
    kind: "component",
    operation,
    position: next === undefined ? before + 1 : (before + next) / 2,
    ...values,
  };
  return [id, [{ table: "line", id, before: null, after }]];
}

export function removeLine(view: SheetView, line: Line): Change[] {
  return [{ table: "line", id: line.id, before: lineValues(view, line), after: null }];
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

/** A line as it leaves for another sheet: its operation by number. */
export type CopiedLine = LineValues & { issue_at?: number | null };

/** Lines as they leave for another sheet: their values, with the operation by its number. */
export function copiedLines(model: Model, lines: Line[]): CopiedLine[] {
  const sequence = new Map(model.view.operations.map((o) => [o.id, o.sequence]));
  return lines.map((line) => {
    const { position: _p, operation, ...values } = lineValues(model.view, line);
    return { ...values, issue_at: operation ? (sequence.get(String(operation)) ?? null) : null };
  });
}

/** Changes that put lines from elsewhere below `below`, or at the end; each at the operation of its number if there is one. */
export function pasteLines(model: Model, values: CopiedLine[], below: Line | null): Change[] {
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
