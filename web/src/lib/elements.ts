export const ELEMENTS = [
  "material",
  "scrap",
  "setup",
  "labor",
  "machine",
  "overhead",
  "subcontract",
  "other",
  "byproduct",
] as const;

export type Element = (typeof ELEMENTS)[number];

export const ELEMENT_WORDS: Record<Element, string> = {
  material: "material",
  scrap: "scrap",
  setup: "set-up",
  labor: "labor",
  machine: "machine",
  overhead: "overhead",
  subcontract: "subcontract",
  other: "other",
  byproduct: "by-product",
};

export function elementColour(element: Element): string {
  return `var(--e-${element})`;
}
