import { expect, it } from "vitest";
import { ELEMENT_COLOURS } from "./declared";
import { ELEMENTS, elementColour } from "./elements";

it("every element has a colour of its own, and what is none of today is brass", () => {
  expect(new Set(ELEMENTS.map((element) => ELEMENT_COLOURS[element])).size).toBe(ELEMENTS.length);
  expect(elementColour("material")).toBe("var(--e-indigo)");
  expect(elementColour("what was kept long ago")).toBe("var(--brass)");
});
