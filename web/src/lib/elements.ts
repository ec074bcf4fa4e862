import { ELEMENT_WORDS, ELEMENTS } from "./declared";

export { ELEMENT_WORDS, ELEMENTS };

export type Element = (typeof ELEMENTS)[number];

/** The colour of an element: one of the look's own, by its name. */
export function elementColour(element: Element): string {
  return `var(--e-${element})`;
}
