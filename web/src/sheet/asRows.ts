import type { TableIn } from "../lib/api";
import { LINE_KINDS } from "../lib/declared";
import { type Column, lossText, optionText, usageText } from "./columns";
import type { LineRowOnScreen, Row } from "./model";

type Cell = string | number | null;

const figure = (value: string | number | null | undefined): Cell =>
  value === null || value === undefined || value === "" ? null : Number(value);

/** What each column of a line says, as a cell: numbers as numbers. */
const CELLS: Record<string, (row: LineRowOnScreen) => Cell> = {
  item: (r) => r.line.item,
  part: (r) => r.line.typedPart ?? r.part?.number ?? null,
  description: (r) => (r.line.kind === "text" ? r.line.text : (r.part?.description ?? null)),
  kind: (r) => (r.line.kind === "component" ? (r.part?.kind ?? null) : LINE_KINDS[r.line.kind].word),
  quantity: (r) => figure(r.line.quantity),
  unit: (r) => (r.line.kind === "text" ? null : r.line.unit || (r.part?.unit ?? null)),
  loss: (r) => lossText(r) || null,
  fixed: (r) => figure(Number(r.line.fixed_loss) || null),
  per: (r) => (r.line.kind === "text" ? null : r.line.quantity_basis === "per_lot" ? "per lot" : "per unit"),
  option: (r) => optionText(r) || null,
  use: (r) => usageText(r) || null,
  needed: (r) => r.needed,
  unit_cost: (r) => (r.needed === null ? null : (r.part?.cost ?? null)),
  cost: (r) => (r.needed === null ? null : (r.line.cost ?? 0) * r.share),
  supplier: (r) => r.part?.supplier || null,
  buying_unit: (r) => (r.part?.kind === "bought" ? (r.part.buying_unit ?? r.part.unit) : null),
  lead: (r) => (r.part?.kind === "bought" ? r.part.lead_time_days : (r.part?.lead_days ?? null)),
  material: (r) => r.part?.material || null,
  places: (r) => r.line.reference_designators.join(", ") || null,
};
const NUMBERS = ["item", "quantity", "fixed", "needed", "unit_cost", "cost", "lead"];

/** The rows of the sheet as they stand on screen, lines opened in place included, as a list that leaves as a file. */
export function asRows(title: string, rows: Row[], columns: Column[]): TableIn {
  const shown = columns.filter((c) => c.key in CELLS);
  const listed = rows.flatMap((row): Cell[][] => {
    if (row.kind === "line") return [[row.level, ...shown.map((c) => CELLS[c.key]!(row))]];
    if (row.kind !== "band") return [];
    const { operation } = row;
    const where = operation.subcontract
      ? `outside ${operation.subcontract.supplier}`.trim()
      : (operation.work_center_name ?? operation.work_center ?? "");
    const cells: Record<string, Cell> = {
      item: operation.sequence,
      description: [operation.name, where].filter(Boolean).join(", "),
      kind: "operation",
      cost: operation.cost === null || operation.cost === undefined ? null : operation.cost * row.share,
    };
    return [[row.level, ...shown.map((c) => cells[c.key] ?? null)]];
  });
  return {
    title,
    columns: [
      { title: "Level", number: true, total: false },
      ...shown.map((c) => ({ title: c.label || "Unit", number: NUMBERS.includes(c.key), total: false })),
    ],
    rows: listed,
  };
}
