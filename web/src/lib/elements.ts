import { ELEMENT_COLOURS, ELEMENT_WORDS, ELEMENTS } from "./declared";

export { ELEMENT_WORDS, ELEMENTS };

export type Element = (typeof ELEMENTS)[number];

/** The colour of an element: one of the look's own, by the name the core gives it. What is no element of today is brass. */
export function elementColour(element: string): string {
  const name = ELEMENT_COLOURS[element as Element] as string | undefined;
  return name ? `var(--e-${name})` : "var(--brass)";
}
