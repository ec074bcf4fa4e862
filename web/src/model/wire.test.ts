import { describe, expect, it } from "vitest";
import type { Schemas } from "../lib/api";
import { figuresOf, rowsOf } from "./wire";

describe("rows that travelled as columns", () => {
  it("have what is the same in all of them, and their own", () => {
    const table = {
      count: 2,
      same: { unit: "ea", text: "" },
      each: { item: [10, 20], cost: [1.5, 2] },
      elements: { material: [1.5, 0], labor: [0, 2] },
    } as unknown as Schemas["LineTable"];
    expect(rowsOf(table)).toEqual([
      { unit: "ea", text: "", item: 10, cost: 1.5, elements: { material: 1.5 } },
      { unit: "ea", text: "", item: 20, cost: 2, elements: { labor: 2 } },
    ]);
  });
  it("count nothing where they have no cost", () => {
    const table = { count: 2, same: {}, each: { cost: [null, 2] }, elements: { labor: [null, 2] } };
    expect(rowsOf(table as unknown as Schemas["LineTable"]).map((r) => r.elements)).toEqual([null, { labor: 2 }]);
    const bare = { count: 1, same: { item: 1 }, each: {}, elements: {} };
    expect(rowsOf(bare as unknown as Schemas["LineTable"])).toEqual([{ item: 1, elements: null }]);
  });
  it("are moved by figures of their own names", () => {
    expect(figuresOf({ each: { cost: [3, null], net: [1, null] }, elements: { scrap: [3, null] } }, 2)).toEqual([
      { cost: 3, net: 1, elements: { scrap: 3 } },
      { cost: null, net: null, elements: null },
    ]);
  });
});
