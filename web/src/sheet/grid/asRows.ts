import type { TableIn } from "../../lib/api";
import type { Row } from "../../model/rows";
import { centerText, costOf } from "./bandCells";
import type { Cell, Column } from "./column";

/** The rows of the sheet as they stand on screen, lines opened in place included, as a list that leaves as a file. */
export function asRows(title: string, rows: Row[], columns: Column[]): TableIn {
  const shown = columns.filter((c) => c.key !== "share");
  const listed = rows.flatMap((row): Cell[][] => {
    if (row.kind === "line") return [[row.level, ...shown.map((c) => c.value(row))]];
    if (row.kind !== "band") return [];
    const { operation } = row;
    const cells: Record<string, Cell> = {
      item: operation.sequence,
      description: [operation.name, centerText(row)].filter(Boolean).join(", "),
      kind: "operation",
      cost: costOf(row),
    };
    return [[row.level, ...shown.map((c) => cells[c.key] ?? null)]];
  });
  return {
    title,
    columns: [
      { title: "Level", number: true, total: false },
      ...shown.map((c) => ({ title: c.label || "Unit", number: !!c.number, total: false })),
    ],
    rows: listed,
  };
}
