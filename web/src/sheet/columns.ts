import type { SheetView } from "../lib/api";
import { minutes, money, quantity } from "../lib/number";
import type { BandRow, LineRowOnScreen, Row } from "./model";

/** Columns by reader; item, part, description, kind, quantity and loss stay put. */
export type ColumnSet = "engineering" | "cost" | "buying" | "shop";
export const COLUMN_SETS: ColumnSet[] = ["engineering", "cost", "buying", "shop"];

/** A column of lines: how wide, what it says, what it says while edited, and which figure opens from it. */
export interface Column {
  key: string;
  label: string;
  width: string;
  right?: boolean;
  edit?: "text" | "number" | "part" | "unit" | "per" | "use";
  /** What the editor starts from. */
  text?: (row: LineRowOnScreen) => string;
  figure?: (row: LineRowOnScreen, view: SheetView) => string | null;
}

const counts = (row: LineRowOnScreen) => row.line.net !== null && row.line.net !== undefined;

export function lossText(row: LineRowOnScreen): string {
  const { scrap_percent, yield_percent } = row.line;
  if (yield_percent !== null) return `yield ${yield_percent} %`;
  return scrap_percent !== null && Number(scrap_percent) !== 0 ? `${scrap_percent} %` : "";
}

/** The other way to say the same loss (rule U3). */
export function lossOtherwise(row: LineRowOnScreen): string | undefined {
  const { scrap_percent, yield_percent } = row.line;
  if (yield_percent !== null) return `the same loss as ${quantity(10000 / Number(yield_percent) - 100, 3)} % scrap`;
  if (Number(scrap_percent ?? 0) > 0)
    return `the same loss as a yield of ${quantity(10000 / (100 + Number(scrap_percent)), 3)} %`;
  return undefined;
}

export function optionText(row: LineRowOnScreen): string {
  const { option, option_action } = row.line;
  return option ? `${option_action === "remove" ? "less" : "with"} ${option}` : "";
}

export function usageText(row: LineRowOnScreen): string {
  if (row.line.not_fitted) return "not fitted";
  if (row.line.customer_supplied) return "customer-supplied";
  if (row.line.kind === "component" && row.line.quantity === null) return "as needed";
  return "";
}

const SHARED: Column[] = [
  { key: "item", label: "Item", width: "46px", right: true, edit: "number", text: (r) => String(r.line.item ?? "") },
  {
    key: "part",
    label: "Part",
    width: "minmax(112px, 128px)",
    edit: "part",
    text: (r) => r.line.typedPart ?? r.part?.number ?? "",
  },
  { key: "description", label: "Description", width: "minmax(120px, 1fr)" },
  { key: "kind", label: "Kind", width: "84px" },
  {
    key: "quantity",
    label: "Quantity",
    width: "62px",
    right: true,
    edit: "number",
    text: (r) => r.line.quantity ?? "",
    figure: (r) => (counts(r) ? `${r.line.kind === "byproduct" ? "gross" : "net"}:${r.line.id}` : null),
  },
  { key: "unit", label: "", width: "34px", edit: "unit", text: (r) => r.line.unit || r.part?.unit || "" },
  {
    key: "loss",
    label: "Loss",
    width: "82px",
    right: true,
    edit: "text",
    text: lossText,
    figure: (r) => (counts(r) ? `gross:${r.line.id}` : null),
  },
];

const ENGINEERING: Column[] = [
  {
    key: "fixed",
    label: "Fixed loss",
    width: "66px",
    right: true,
    edit: "number",
    text: (r) => (Number(r.line.fixed_loss) ? r.line.fixed_loss : ""),
  },
  { key: "per", label: "Counted", width: "66px", edit: "per", text: (r) => r.line.quantity_basis },
  { key: "option", label: "Option", width: "82px", edit: "text", text: optionText },
  {
    key: "use",
    label: "Use",
    width: "96px",
    edit: "use",
    text: (r) => (r.line.not_fitted ? "not_fitted" : r.line.customer_supplied ? "customer" : ""),
  },
];

const NEEDED: Column = {
  key: "needed",
  label: "Needed",
  width: "86px",
  right: true,
  figure: (r) => (counts(r) ? `gross:${r.line.id}` : null),
};
const USE = ENGINEERING.at(-1)!;

const COST: Column[] = [
  NEEDED,
  {
    key: "unit_cost",
    label: "Unit cost",
    width: "62px",
    right: true,
    figure: (r) => (r.part && counts(r) ? `unit:${r.part.id}` : null),
  },
  { key: "cost", label: "Cost", width: "62px", right: true, figure: (r) => (counts(r) ? `line:${r.line.id}` : null) },
  { key: "share", label: "Share", width: "76px" },
];

const BUYING: Column[] = [
  NEEDED,
  { key: "supplier", label: "Supplier", width: "124px" },
  { key: "buying_unit", label: "Bought by", width: "58px" },
  { key: "lead", label: "Days", width: "40px", right: true },
];

const SHOP: Column[] = [
  NEEDED,
  { key: "material", label: "Material", width: "108px" },
  { key: "places", label: "Places", width: "84px" },
  USE,
];

export function columnsOf(set: ColumnSet): Column[] {
  return [...SHARED, ...{ engineering: ENGINEERING, cost: COST, buying: BUYING, shop: SHOP }[set]];
}

/** The cells of an operation's band; `beside` is the column of lines that stands nearest. */
export interface BandCell {
  key: "sequence" | "name" | "center" | "setup" | "run" | "work";
  label: string;
  beside: string[];
  edit?: "number" | "text" | "center";
  text?: (row: BandRow) => string;
  show: (row: BandRow) => string;
}

export const BAND_CELLS: BandCell[] = [
  {
    key: "sequence",
    label: "Operation",
    beside: ["item"],
    edit: "number",
    text: (r) => String(r.operation.sequence),
    show: (r) => String(r.operation.sequence),
  },
  {
    key: "name",
    label: "Name",
    beside: ["part"],
    edit: "text",
    text: (r) => r.operation.name,
    show: (r) => r.operation.name || "unnamed",
  },
  {
    key: "center",
    label: "Work center",
    beside: ["description", "kind"],
    edit: "center",
    text: (r) => r.operation.work_center ?? "",
    show: (r) =>
      r.operation.subcontract
        ? `outside${r.operation.subcontract.supplier ? `: ${r.operation.subcontract.supplier}` : ""}`
        : r.operation.work_center_name || r.operation.work_center || "",
  },
  {
    key: "setup",
    label: "Set-up",
    beside: ["quantity", "unit"],
    edit: "number",
    text: (r) => r.operation.setup_minutes,
    show: (r) => minutes(r.operation.setup_minutes),
  },
  {
    key: "run",
    label: "Run",
    beside: ["loss", "fixed", "per", "needed", "option", "material", "supplier"],
    edit: "number",
    text: (r) => r.operation.run_minutes,
    show: runText,
  },
  {
    key: "work",
    label: "Cost",
    beside: ["cost", "unit_cost", "share", "use", "buying_unit", "lead", "places"],
    show: (r) => money(r.operation.cost === null || r.operation.cost === undefined ? null : r.operation.cost * r.share),
  },
];

function runText(row: BandRow): string {
  const { run_minutes, run_basis, cycle_quantity } = row.operation;
  const per = { per_unit: "", per_cycle: ` per ${quantity(cycle_quantity)}`, per_lot: " per lot" }[run_basis] ?? "";
  return `${minutes(run_minutes)}${per}`;
}

/** The figure that opens from a cell of any row; null where there is none. */
export function figureAt(row: Row | undefined, column: string, columns: Column[], view: SheetView): string | null {
  if (!row) return null;
  if (row.kind === "band")
    return row.operation.cost === null || row.operation.cost === undefined ? null : `work:${row.operation.id}`;
  if (row.kind !== "line") return null;
  const at = columns.find((c) => c.key === column);
  return at?.figure?.(row, view) ?? (counts(row) ? `line:${row.line.id}` : null);
}

/** The keys of the cells of a row, from left to right. */
export function cellsOf(row: Row, columns: Column[]): string[] {
  if (row.kind === "band") return BAND_CELLS.map((cell) => cell.key);
  if (row.kind === "new-line") return ["part", "description"];
  if (row.kind === "new-operation") return row.name === null ? ["name"] : ["name", "center"];
  return columns.filter((c) => c.key !== "share").map((c) => c.key);
}

/** The cell of `row` that stands nearest to the cell `key` of another row. */
export function nearest(row: Row, key: string, columns: Column[]): string {
  const cells = cellsOf(row, columns);
  if (cells.includes(key)) return key;
  if (row.kind === "band") return BAND_CELLS.find((cell) => cell.beside.includes(key))?.key ?? "name";
  if (row.kind === "new-line" || row.kind === "new-operation") return cells[0]!;
  const from = BAND_CELLS.find((cell) => cell.key === key);
  return from?.beside.find((k) => cells.includes(k)) ?? cells[Math.min(1, cells.length - 1)]!;
}
