import { minutes, money, quantity, typed } from "../../lib/number";
import { doneAt } from "../../model/operations";
import type { BandRow } from "../../model/rows";
import type { BandCell } from "./column";
import { whole } from "./lineColumns";

export const centerText = ({ operation }: BandRow): string =>
  operation.subcontract
    ? `outside${operation.subcontract.supplier ? `: ${operation.subcontract.supplier}` : ""}`
    : `${operation.work_center_name || operation.work_center || ""}${operation.any_of_group ? " or its group" : ""}`;

/** What an operation costs in one of the top part; null where the basis has no answer. */
export const costOf = ({ operation, share }: BandRow): number | null =>
  operation.cost === null || operation.cost === undefined ? null : operation.cost * share;

function runText({ operation }: BandRow): string {
  const { run_minutes, run_basis, cycle_quantity } = operation;
  const per = { per_unit: "", per_cycle: ` per ${quantity(cycle_quantity)}`, per_lot: " per lot" }[run_basis] ?? "";
  return `${minutes(run_minutes)}${per}`;
}

/** The cells of an operation's band, from left to right. */
export const BAND_CELLS: BandCell[] = [
  {
    key: "sequence",
    label: "Operation",
    right: true,
    beside: ["item"],
    show: (r, own) =>
      r.operation.beside === null && (
        <span className={`pn ${own ? "font-semibold text-blue" : ""}`}>{r.operation.sequence}</span>
      ),
    edit: {
      alone: true,
      start: (r) => String(r.operation.sequence),
      apply: (text) => ({ sequence: whole(text) }),
      fields: ["sequence"],
    },
  },
  {
    key: "name",
    label: "Name",
    beside: ["part"],
    show: (r, own) =>
      r.operation.beside === null ? (
        <span className={`truncate ${own ? "font-semibold" : ""}`}>{r.operation.name || "unnamed"}</span>
      ) : (
        <span className="truncate text-ink-3">beside it, at the same time</span>
      ),
    edit: { alone: true, start: (r) => r.operation.name, apply: (text) => ({ name: text }), fields: ["name"] },
  },
  {
    key: "center",
    label: "Work center",
    beside: ["description", "kind"],
    show: (r) => <span className="truncate text-ink-3">{centerText(r)}</span>,
    edit: {
      start: (r) => r.operation.work_center ?? "",
      center: true,
      apply: (text, r, centers) => (text === r.operation.work_center ? {} : doneAt(r.operation, text, centers)),
      fields: ["work_center"],
    },
  },
  {
    key: "setup",
    label: "Set-up",
    right: true,
    beside: ["quantity", "unit"],
    show: ({ operation }) =>
      operation.subcontract ? (
        <span className="truncate text-ink-3">least {money(Number(operation.subcontract.minimum_charge))}</span>
      ) : (
        <span>
          <span className="text-ink-3">set-up</span> {minutes(operation.setup_minutes)}
        </span>
      ),
    edit: {
      start: (r) => r.operation.setup_minutes,
      apply: (text) => ({ setup_minutes: typed(text) || "0" }),
      fields: ["setup_minutes"],
    },
  },
  {
    key: "run",
    label: "Run",
    right: true,
    beside: ["loss", "fixed", "per", "needed", "option", "material", "supplier", "on_hand", "free"],
    show: (r) =>
      r.operation.subcontract ? (
        <span className="truncate text-ink-3">{money(Number(r.operation.subcontract.unit_price))} each</span>
      ) : (
        <span className="truncate">
          <span className="text-ink-3">run</span> {runText(r)}
        </span>
      ),
    edit: {
      start: (r) => r.operation.run_minutes,
      apply: (text) => ({ run_minutes: typed(text) || "0" }),
      fields: ["run_minutes"],
    },
  },
  {
    key: "work",
    label: "Cost",
    right: true,
    beside: ["cost", "unit_cost", "share", "use", "buying_unit", "lead", "places", "on_order", "short", "enough"],
    show: (r, own) => <b className={own ? "font-semibold" : ""}>{money(costOf(r))}</b>,
  },
];
