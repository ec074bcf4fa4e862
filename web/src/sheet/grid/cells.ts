import type { LineRowOnScreen, Row } from "../../model/rows";
import { counts } from "../../model/texts";
import type { SheetView } from "../../model/wire";
import { BAND_CELLS } from "./bandCells";
import type { Column, LineEdit, PartEdit } from "./column";
import { ALL_COLUMNS } from "./columns";

/** The figure that opens from a cell of any row; null where there is none. */
export function figureAt(row: Row | undefined, column: string, columns: Column[], view: SheetView): string | null {
  if (!row) return null;
  if (row.kind === "band")
    return row.operation.cost === null || row.operation.cost === undefined ? null : `work:${row.operation.id}`;
  if (row.kind !== "line") return null;
  const at = columns.find((c) => c.key === column);
  return at?.figure?.(row, view) ?? (counts(row) ? `line:${row.line.id}` : null);
}

/** How something of the line's part is typed into its cell; only of a draft, which nobody rests on yet. */
export function partEditOf(column: Column | undefined, row: LineRowOnScreen): PartEdit | undefined {
  return row.line.kind !== "text" && row.part?.lifecycle === "draft" ? column?.ofPart : undefined;
}

/** How a cell of a line is typed into, if it is. */
export function lineEditOf(column: Column | undefined, row: LineRowOnScreen): LineEdit | undefined {
  const edit = column?.edit;
  return (row.line.kind === "text" ? edit?.of !== undefined : edit?.of !== "notes") ? edit : undefined;
}

/** The keys of the cells of a row, from left to right. */
export function cellsOf(row: Row, columns: Column[]): string[] {
  if (row.kind === "band") return BAND_CELLS.map((cell) => cell.key);
  if (row.kind === "new-line") return ["part", "description"];
  if (row.kind === "new-resource") return ["center"];
  if (row.kind === "new-operation") return row.name === null ? ["name"] : ["name", "center"];
  return columns.filter((c) => c.key !== "share").map((c) => c.key);
}

/** The cell of `row` that stands nearest to the cell `key` of another row. */
export function nearest(row: Row, key: string, columns: Column[]): string {
  const cells = cellsOf(row, columns);
  if (cells.includes(key)) return key;
  if (row.kind === "band") return BAND_CELLS.find((cell) => cell.beside.includes(key))?.key ?? "name";
  if (row.kind !== "line") return cells[0]!;
  const from = BAND_CELLS.find((cell) => cell.key === key);
  return from?.beside.find((k) => cells.includes(k)) ?? cells[Math.min(1, cells.length - 1)]!;
}

/** Into which cell a field is typed: a refused text goes back there. */
export function cellOf(table: "line" | "operation" | "sheet", field: string): string | undefined {
  const cells = table === "line" ? ALL_COLUMNS : table === "operation" ? BAND_CELLS : [];
  return cells.find((cell) => cell.edit?.fields.includes(field))?.key;
}
