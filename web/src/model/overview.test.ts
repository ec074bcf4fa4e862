import { describe, expect, it } from "vitest";
import { depthOf, overviewRows } from "./overview";
import { modelOf } from "./product";
import { smallSheet } from "./testing";

describe("the overview", () => {
  const model = modelOf(smallSheet());
  const rows = (deep: number) => overviewRows(model, (_, level) => level < deep).rows;
  it("stands open to the level asked for, the work on each sheet behind its lines", () => {
    expect(rows(1).map((r) => r.key)).toEqual(["", "/a", "/b", "/s", "/work"]);
    expect(rows(2).map((r) => [r.key, r.level])).toEqual([
      ["", 0],
      ["/a", 1],
      ["/b", 1],
      ["/s", 1],
      ["/s/sb", 2],
      ["/work", 1],
    ]);
    expect(depthOf(model)).toBe(2);
  });
  it("says of a deep line what it adds to one of the product", () => {
    const deep = rows(2).find((r) => r.key === "/s/sb")!;
    // Two of SUB, each with two B that cost 2 together.
    expect([deep.quantity, deep.cost]).toEqual([4, 4]);
    expect(rows(1).find((r) => r.key === "/work")!.cost).toBe(4);
  });
});
