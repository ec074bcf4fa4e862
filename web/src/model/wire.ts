import type { Schemas } from "../lib/api";
import type { Element } from "../lib/elements";

/** What a row costs by element; one that is not named costs nothing, and null does not count. */
export type ByElement = Partial<Record<Element, number>> | null;

/** Rows as they travel: what is the same in all of them once, a list for every other field or what says it shorter, the cost by element apart. */
interface Table {
  count: number;
  same: object;
  each: object;
  few?: Schemas["LineTable"]["few"];
  steps?: Schemas["LineTable"]["steps"];
  but?: Schemas["LineTable"]["but"];
  elements: Schemas["ByElement"];
}

/** The row of a table. */
export type RowOf<T extends Table> = {
  [K in keyof T["each"]]-?: NonNullable<T["each"][K]> extends (infer V)[] ? V : never;
} & { elements: ByElement };

export type PartRow = Omit<RowOf<Schemas["PartTable"]>, "need">;
export type LineRow = RowOf<Schemas["LineTable"]>;
export type OperationRow = RowOf<Schemas["OperationTable"]>;

/** A sheet with everything below it, laid out in rows. */
export type SheetView = Omit<Schemas["SheetView"], "parts" | "lines" | "operations"> & {
  parts: PartRow[];
  /** How many of each part are taken in all, by its row; null where it does not count. Apart, since an edit moves thousands of them. */
  needs: (number | null)[];
  lines: LineRow[];
  operations: OperationRow[];
};

/** A view as it comes from the server, laid out in rows. */
export function laidOut(view: Schemas["SheetView"]): SheetView {
  const { need: each, ...parts } = columnsOf(view.parts);
  const { need: everywhere = null, ...same } = view.parts.same as { need?: number | null };
  return {
    ...view,
    parts: rowsFrom({ ...view.parts, same }, parts),
    needs: (each as SheetView["needs"]) ?? Array(view.parts.count).fill(everywhere),
    lines: rowsOf(view.lines),
    operations: rowsOf(view.operations),
  };
}

/** A word for all that the figures of a view rest on: whatever is asked about them is asked anew in another state. */
export function stateOf(view: SheetView): string {
  return view.stamp ?? `version ${view.sheet.version}`;
}

type Figures = Record<string, (number | null)[]>;

function elementsAt(elements: Schemas["ByElement"], row: number): ByElement {
  const found: Partial<Record<Element, number>> = {};
  for (const name in elements) {
    const value = elements[name as Element]![row];
    if (value) found[name as Element] = value;
  }
  return found;
}

/** A table's rows. */
export function rowsOf<T extends Table>(table: T): RowOf<T>[] {
  return rowsFrom(table, columnsOf(table)) as RowOf<T>[];
}

/** The columns that are not the same in all rows, each written out. */
function columnsOf(table: Table): Record<string, unknown[]> {
  const columns: Record<string, unknown[]> = { ...table.each };
  for (const [name, few] of Object.entries(table.few ?? {})) columns[name] = few.at.map((place) => few.words[place]);
  for (const [name, [first, grows]] of Object.entries(table.steps ?? {}))
    columns[name] = Array.from({ length: table.count }, (_, at) => first! + at * grows!);
  for (const [name, but] of Object.entries(table.but ?? {})) {
    const column = but.like ? [...columns[but.like]!] : Array<unknown>(table.count).fill(but.value);
    but.rows.forEach((row, at) => {
      column[row] = but.values[at];
    });
    columns[name] = column;
  }
  return columns;
}

function rowsFrom<Row>(table: Table, columns: Record<string, unknown[]>): Row[] {
  const each = Object.entries(columns);
  return Array.from({ length: table.count }, (_, at) => {
    const row: Record<string, unknown> = { ...table.same };
    for (const [name, column] of each) row[name] = column[at];
    row.elements = (row.cost ?? null) === null ? null : elementsAt(table.elements, at);
    return row as Row;
  });
}

/** Figures that an edit moved, by row or key: what is to be laid on the row they are of. */
export function figuresOf(moved: { each: object; elements: Schemas["ByElement"] }, count: number) {
  const each = Object.entries(moved.each) as [string, (number | null)[]][];
  const cost = (moved.each as Figures).cost!;
  return Array.from({ length: count }, (_, at) => ({
    ...Object.fromEntries(each.map(([name, column]) => [name, column[at]])),
    elements: cost[at] === null ? null : elementsAt(moved.elements, at),
  }));
}
