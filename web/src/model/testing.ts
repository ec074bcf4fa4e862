import type { SheetHead } from "../lib/api";
import { NEW_LINE, NEW_OPERATION } from "./view";
import type { LineRow, OperationRow, PartRow, SheetView } from "./wire";

/** A sheet for tests: TOP takes A and B at operation 10 and SUB at 20; SUB takes two B. Costs are what they add up to. */
export function smallSheet(): SheetView {
  const part = (number: string, more: Partial<PartRow>): PartRow =>
    ({
      id: number.charCodeAt(0) * 100 + number.length,
      number,
      description: `part ${number}`,
      kind: "bought",
      unit: "ea",
      unit_cost: "1",
      given: "",
      lifecycle: "active",
      part_class: "",
      material: "",
      supplier: "",
      supplier_number: "",
      supplier_link: "",
      size_mm: "",
      buying_unit: null,
      lead_time_days: 0,
      sheet: null,
      on_hand: 0,
      spoken_for: 0,
      on_order: 0,
      cost: 1,
      ...more,
    }) as PartRow;
  const line = (id: string, child: number, position: number, more: Partial<LineRow>): LineRow =>
    ({ ...NEW_LINE, id, parent: 0, child, position, quantity: "1", net: 1, gross: 1, cost: 1, ...more }) as LineRow;
  const operation = (id: string, sequence: number, more: Partial<OperationRow> = {}): OperationRow =>
    ({ ...NEW_OPERATION, id, parent: 0, sequence, cost: 2, ...more }) as OperationRow;
  return {
    sheet: { id: 1, part: "TOP", version: 3, status: "draft", revision: "A", alternate: "A", batch: "1" } as SheetHead,
    currency: "EUR",
    basis: { as_of: "2026-11-25", quantity: null, drafts: false } as unknown as SheetView["basis"],
    stamp: "s",
    whole: true,
    top: 0,
    problem: null,
    missing: [],
    standard: null,
    selling_price: null,
    options: [],
    parts: [
      part("TOP", { kind: "made" }),
      part("A", {}),
      part("B", { part_class: "Nuts" }),
      part("SUB", { kind: "made" }),
    ],
    needs: [1, 1, 8, 2],
    lines: [
      line("a", 1, 1, { item: 10, operation: "o10" }),
      line("b", 2, 2, { item: 20, operation: "o10", quantity: "3", net: 3, gross: 4, cost: 4 }),
      line("s", 3, 3, { item: 30, operation: "o20", quantity: "2", net: 2, gross: 2, cost: 4 }),
      line("sb", 2, 1, { parent: 3, item: 10, quantity: "2", net: 2, gross: 2, cost: 2 }),
    ],
    operations: [operation("o10", 10), operation("o20", 20, { name: "Fit" })],
  };
}
