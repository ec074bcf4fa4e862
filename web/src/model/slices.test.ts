import { describe, expect, it } from "vitest";
import { modelOf } from "./product";
import { slicesIn, wholeOf } from "./slices";
import { smallSheet } from "./testing";
import type { SheetView } from "./wire";

/** The small sheet with what its rows cost by element. */
function costed(more: (view: SheetView) => void = () => {}): SheetView {
  const view = smallSheet();
  for (const row of [...view.parts, ...view.lines, ...view.operations]) row.elements = { material: row.cost ?? 0 };
  view.parts[0]!.cost = 13;
  more(view);
  return view;
}

describe("slices of a cost", () => {
  it("are the lines and operations of a part, the dearest first, and those of a made part inside its own", () => {
    const whole = wholeOf(modelOf(costed()), 3);
    expect(whole.children.map((s) => [s.key, s.cost])).toEqual([
      ["/b", 4],
      ["/s", 4],
      ["/o10", 2],
      ["/o20", 2],
      ["/a", 1],
    ]);
    // Two of SUB, each with two B for 2 together.
    expect(whole.children[1]!.children.map((s) => [s.key, s.cost])).toEqual([["/s/sb", 4]]);
    expect(wholeOf(modelOf(costed()), 1).children[1]!.children).toEqual([]);
  });
  it("stand together where nobody could see them, and nothing of the sum is lost", () => {
    const view = costed((v) => {
      const [a] = v.lines;
      for (let n = 0; n < 2000; n += 1)
        v.lines.push({ ...a!, id: `n${n}`, position: 10 + n, cost: 0.01, elements: { material: 0.004, labor: 0.006 } });
      v.parts[0]!.cost = 33;
    });
    const whole = wholeOf(modelOf(view), 3);
    const rest = whole.children.at(-1)!;
    expect(whole.children).toHaveLength(6);
    expect([rest.name, rest.mostly, rest.opens, rest.within]).toEqual([
      "2000 that are too small to show",
      "labor",
      false,
      null,
    ]);
    expect(rest.elements.material).toBeCloseTo(8);
    expect(whole.children.reduce((sum, s) => sum + s.cost, 0)).toBeCloseTo(33);
    expect(slicesIn(rest, modelOf(view), 2, whole.cost)).toEqual([]);
  });
});
