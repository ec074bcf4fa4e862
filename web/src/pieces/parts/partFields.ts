import type { GIVEN_AS, LIFECYCLES, PART_KINDS } from "../../lib/declared";

export const NAMES = [
  "number",
  "description",
  "kind",
  "unit",
  "unit_cost",
  "given_cost",
  "given_as",
  "markup_percent",
  "given_reason",
  "selling_price",
  "overhead_percent",
  "costing_lot",
  "lead_time_days",
  "lifecycle",
  "second_description",
  "part_class",
  "material",
  "mass_kg",
  "size_mm",
  "supplier",
  "supplier_number",
  "supplier_link",
  "buying_unit",
  "stock_per_buying_unit",
  "reorder_level",
  "order_minimum",
  "order_multiple",
  "kept_in",
] as const;
export const NUMBERS = [
  "unit_cost",
  "given_cost",
  "markup_percent",
  "selling_price",
  "overhead_percent",
  "costing_lot",
  "lead_time_days",
  "mass_kg",
  "stock_per_buying_unit",
  "reorder_level",
  "order_minimum",
  "order_multiple",
] as const;

export type Name = (typeof NAMES)[number];

/** Fields that fewer parts have, by what they are about: name, label, hint. */
export const MORE: [about: string, fields: [Name, string, string?][]][] = [
  [
    "Shape and description",
    [
      ["second_description", "Second description"],
      ["material", "Material"],
      ["mass_kg", "Mass, kg"],
      ["size_mm", "Overall size, mm", "120 x 80 x 35"],
    ],
  ],
  [
    "Buying and holding",
    [
      ["supplier", "Supplier"],
      ["supplier_number", "Supplier's number"],
      ["supplier_link", "Where it is bought", "a link"],
      ["buying_unit", "Buying unit", "when not the stock unit"],
      ["stock_per_buying_unit", "One holds, in stock units", "1 roll = 50 m"],
      ["reorder_level", "Reorder level"],
      ["order_minimum", "Order minimum"],
      ["order_multiple", "Order multiple"],
      ["kept_in", "Kept in", "store, and where in it"],
    ],
  ],
];

export const KIND_WORDS: Record<keyof typeof PART_KINDS, string> = {
  bought: "bought",
  made: "made, with a build sheet",
  phantom: "phantom, never stocked",
  charge: "charge: freight, a fee, tooling",
};
export const GIVEN_AS_WORDS: Record<(typeof GIVEN_AS)[number], string> = {
  proportion: "split as its roll-up",
  one_element: "all of it material",
};
export const LIFECYCLE_WORDS: Record<(typeof LIFECYCLES)[number], string> = {
  draft: "draft",
  active: "active",
  last_buy: "last buy",
  obsolete: "obsolete",
};
