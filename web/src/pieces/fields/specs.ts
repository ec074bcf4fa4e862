import { minutesText, typed, typedMinutes } from "../../lib/number";
import { OUTSIDE } from "../../model/operations";

export type Kind = "text" | "partner" | "number" | "minutes" | "day" | "flag" | "list" | "choice" | "numbers";

export interface Spec {
  name: string;
  label: string;
  kind: Kind;
  hint?: string;
  /** What it means when nothing is stated. */
  empty?: string;
  choices?: [string, string][];
}

export const OPERATION: Spec[] = [
  {
    name: "run_basis",
    label: "Run time is",
    kind: "choice",
    choices: [
      ["per_unit", "per unit"],
      ["per_cycle", "per cycle"],
      ["per_lot", "once per lot"],
    ],
  },
  { name: "cycle_quantity", label: "One cycle holds", kind: "number" },
  { name: "yield_percent", label: "Yield, %", kind: "number", hint: "share of what it starts that goes on" },
  { name: "stations", label: "Stations that share the lot", kind: "number" },
  { name: "any_of_group", label: "Any work center of its group may do it", kind: "flag" },
  { name: "crew", label: "Crew", kind: "number" },
  { name: "setup_crew", label: "Set-up crew", kind: "number" },
  { name: "piece_rate", label: "Piece rate", kind: "number", hint: "in place of labor by time" },
  { name: "queue_minutes", label: "Queue", kind: "minutes", hint: "minutes, or 2 h" },
  { name: "wait_minutes", label: "Wait", kind: "minutes", hint: "nobody works: 45, 8 h, 2 d on the clock" },
  { name: "move_minutes", label: "Move", kind: "minutes", hint: "minutes, or 2 h" },
  {
    name: "transfer_quantity",
    label: "Passes on after",
    kind: "number",
    hint: "so many: what follows may begin then; the whole lot when empty",
  },
  { name: "after", label: "Follows operations", kind: "numbers", hint: "with commas; the one before when empty" },
];
export const NOT_OUTSIDE = [
  "run_basis",
  "cycle_quantity",
  "stations",
  "any_of_group",
  "crew",
  "setup_crew",
  "piece_rate",
  "transfer_quantity",
];

/** What may be stated of what works beside an operation. */
export const BESIDE = ["run_basis", "crew", "setup_crew"];

export const OUTSIDE_SPECS: Spec[] = [
  { name: "supplier", label: "Supplier", kind: "partner" },
  { name: "unit_price", label: "Price each", kind: "number" },
  { name: "minimum_charge", label: "Minimum charge", kind: "number", hint: "per lot" },
  { name: "lead_days", label: "Days away", kind: "number" },
];

export interface Center {
  code: string;
  name: string;
  crew: string;
}

export const WHERE: Spec = { name: "work_center", label: "Done at", kind: "choice" };

export function whereChoices(centers: Center[], outside = true): [string, string][] {
  const here = centers.map((c): [string, string] => [c.code, `${c.code} ${c.name}`]);
  return outside ? [...here, [OUTSIDE, "outside, by a supplier"]] : here;
}

export function asText(value: unknown, kind?: Kind): string {
  if (kind === "minutes") return minutesText(value);
  if (Array.isArray(value)) return value.join(", ");
  return value === null || value === undefined ? "" : String(value);
}

export function fromText(kind: Kind, text: string): unknown {
  if (kind === "list")
    return text
      .split(",")
      .map((t) => t.trim())
      .filter(Boolean);
  if (kind === "numbers")
    return text
      .split(",")
      .map((t) => t.trim())
      .filter(Boolean);
  if (kind === "minutes") return typedMinutes(text) || null;
  if (kind === "number") return typed(text) || null;
  return kind === "text" ? text : text || null;
}
