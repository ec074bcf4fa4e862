import { describe, expect, it } from "vitest";
import type { Schemas } from "../lib/api";
import { figuresOf, laidOut, rowsOf } from "./wire";

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
  it("are told in fewer words where that is shorter", () => {
    const table = {
      count: 4,
      same: { cost: 2 },
      each: { need: [1, 2, 3, 4] },
      few: { unit: { words: ["ea", "kg"], at: [0, 1, 1, 0] } },
      steps: { item: [10, 5] },
      but: {
        kind: { like: "", value: "bought", rows: [3], values: ["made"] },
        lot: { like: "need", value: null, rows: [0, 1], values: [7, null] },
      },
      elements: { material: [2, 2, 2, 0] },
    } as unknown as Schemas["LineTable"];
    expect(rowsOf(table)).toEqual([
      { cost: 2, need: 1, unit: "ea", item: 10, kind: "bought", lot: 7, elements: { material: 2 } },
      { cost: 2, need: 2, unit: "kg", item: 15, kind: "bought", lot: null, elements: { material: 2 } },
      { cost: 2, need: 3, unit: "kg", item: 20, kind: "bought", lot: 3, elements: { material: 2 } },
      { cost: 2, need: 4, unit: "ea", item: 25, kind: "made", lot: 4, elements: {} },
    ]);
  });
  it("count nothing where they have no cost", () => {
    const table = { count: 2, same: {}, each: { cost: [null, 2] }, elements: { labor: [null, 2] } };
    expect(rowsOf(table as unknown as Schemas["LineTable"]).map((r) => r.elements)).toEqual([null, { labor: 2 }]);
    const bare = { count: 1, same: { item: 1 }, each: {}, elements: {} };
    expect(rowsOf(bare as unknown as Schemas["LineTable"])).toEqual([{ item: 1, elements: null }]);
  });
  it("hold what is needed of each part apart from the parts", () => {
    const empty = { count: 0, same: {}, each: {}, elements: {} };
    const needs = (parts: object) => {
      const view = laidOut({ parts, lines: empty, operations: empty } as unknown as Schemas["SheetView"]);
      expect(view.parts.some((part) => "need" in part && part.need !== undefined)).toBe(false);
      return view.needs;
    };
    expect(needs({ count: 2, same: {}, each: { id: [1, 2], need: [3, null] }, elements: {} })).toEqual([3, null]);
    expect(needs({ count: 2, same: { need: 4 }, each: { id: [1, 2] }, elements: {} })).toEqual([4, 4]);
    // Where there is no answer nothing is needed.
    expect(needs({ count: 1, same: {}, each: { id: [1] }, elements: {} })).toEqual([null]);
  });
  it("are moved by figures of their own names", () => {
    expect(figuresOf({ each: { cost: [3, null], net: [1, null] }, elements: { scrap: [3, null] } }, 2)).toEqual([
      { cost: 3, net: 1, elements: { scrap: 3 } },
      { cost: null, net: null, elements: null },
    ]);
  });
});
