import { describe, expect, it } from "vitest";
import { type Change, lineValues, merged } from "./change";
import {
  addLine,
  asNote,
  copiedLines,
  moveLine,
  moveLines,
  pasteLines,
  placeLines,
  readLoss,
  readOption,
  removeLine,
  setLine,
} from "./lines";
import { setOperation } from "./operations";
import { linesByOperation, modelOf } from "./product";
import { reverse } from "./queue";
import { renumber } from "./renumber";
import { type LineRowOnScreen, visibleRows } from "./rows";
import { smallSheet } from "./testing";
import { enoughFor, short } from "./texts";
import { overlay, withEdit } from "./view";
import { wordsOf } from "./words";

const view = smallSheet();
const model = modelOf(view);
const line = (id: string) => view.lines.find((l) => l.id === id)!;
const operation = (id: string) => view.operations.find((o) => o.id === id)!;
const order = (changes: Change[]) => {
  const laid = modelOf(overlay(view, changes));
  return linesByOperation(laid, 0).map(([o, lines]) => [o?.sequence, lines.map((l) => l.id).join("")]);
};

describe("an edit", () => {
  it("carries what it found and what it leaves, and nothing where nothing moves", () => {
    expect(setLine(view, line("b"), { quantity: "5", text: "" })).toEqual([
      { table: "line", id: "b", before: { quantity: "3" }, after: { quantity: "5" } },
    ]);
    expect(setLine(view, line("b"), { quantity: "3" })).toEqual([]);
  });
  it("asks for a part to be made only where the part is another", () => {
    expect(setLine(view, line("a"), { part: "A", make: "bought" })).toEqual([]);
    expect(setLine(view, line("a"), { part: "NEW", make: "bought" })[0]?.after).toEqual({
      part: "NEW",
      make: "bought",
    });
  });
  it("turned round gives back what stood there", () => {
    const [change] = setLine(view, line("b"), { quantity: "5" });
    const there = overlay(view, [change!]);
    const back = overlay(there, reverse([change!]));
    expect(back.lines).toEqual(view.lines);
  });
  it("says in words what was typed", () => {
    expect(wordsOf(view, setLine(view, line("b"), { quantity: "5" }))).toBe("item 20 B: quantity 5");
    expect(wordsOf(view, removeLine(view, line("s")))).toBe("item 30 SUB: take away");
    expect(wordsOf(view, setOperation(operation("o20"), { run_minutes: "" }))).toBe("operation 20: run minutes empty");
  });
  it("after one another is one for each row", () => {
    const first = setLine(view, line("b"), { quantity: "5" });
    const second = [
      { table: "line" as const, id: "b", before: { quantity: "5", unit: null }, after: { quantity: "6", unit: "kg" } },
    ];
    expect(merged([...first, ...second])).toEqual([
      { table: "line", id: "b", before: { quantity: "3", unit: null }, after: { quantity: "6", unit: "kg" } },
    ]);
    expect(merged([...first, ...removeLine(view, line("b"))])[0]?.after).toBeNull();
  });
});

describe("lines", () => {
  it("new: below another, first of an operation, or at the end", () => {
    const [id, changes] = addLine(model, { part: "A", quantity: "1" }, { line: line("a") });
    expect(changes[0]?.after).toMatchObject({ item: 40, position: 1.5, operation: "o10" });
    expect(order(changes)).toEqual([
      [10, `a${id}b`],
      [20, "s"],
    ]);
    expect(addLine(model, {}, { operation: operation("o20") })[1][0]?.after).toMatchObject({
      operation: "o20",
      position: 2.5,
    });
    expect(addLine(model, {}, null)[1][0]?.after).toMatchObject({ operation: "o20", position: 4 });
  });
  it("move within an operation and over its edge", () => {
    expect(order(moveLine(model, line("a"), 1))).toEqual([
      [10, "ba"],
      [20, "s"],
    ]);
    expect(order(moveLine(model, line("b"), 1))).toEqual([
      [10, "a"],
      [20, "bs"],
    ]);
    expect(order(moveLine(model, line("s"), -1))).toEqual([
      [10, "abs"],
      [20, ""],
    ]);
    expect(moveLine(model, line("a"), -1)).toEqual([]);
  });
  it("move together, and not where they stand at several operations", () => {
    expect(order(moveLines(model, [line("a"), line("b")], 1))).toEqual([
      [10, ""],
      [20, "abs"],
    ]);
    expect(moveLines(model, [line("b"), line("s")], 1)).toEqual([]);
  });
  it("are put where they are dropped", () => {
    expect(order(placeLines(model, [line("s")], "o10", line("b")))).toEqual([
      [10, "asb"],
      [20, ""],
    ]);
    expect(order(placeLines(model, [line("a")], "o20", null))).toEqual([
      [10, "b"],
      [20, "sa"],
    ]);
  });
  it("leave for another sheet and come in there at the operation of their number", () => {
    const copied = copiedLines(model, [line("s")]);
    expect(copied[0]).toMatchObject({ part: "SUB", issue_at: 20, quantity: "2" });
    const pasted = pasteLines(model, copied, line("a"));
    expect(pasted[0]?.after).toMatchObject({ operation: "o20", position: 1.5, item: 30 });
    expect(pasteLines(model, [{ part: "A", issue_at: 99 }], line("a"))[0]?.after).toMatchObject({
      operation: "o10",
      item: 40,
    });
  });
  it("become a note that counts nothing", () => {
    expect(asNote("see drawing")).toMatchObject({ kind: "text", part: null, quantity: null, fixed_loss: "0" });
  });
  it("read a loss and an option as they are typed", () => {
    expect(readLoss("5 %")).toEqual({ scrap_percent: "5", yield_percent: null });
    expect(readLoss("yield 98")).toEqual({ scrap_percent: null, yield_percent: "98" });
    expect(readLoss("")).toEqual({ scrap_percent: null, yield_percent: null });
    expect(readOption("less SYNC")).toEqual({ option: "SYNC", option_action: "remove" });
    expect(readOption("with SYNC")).toEqual({ option: "SYNC", option_action: "add" });
    expect(readOption(" ")).toEqual({ option: null, option_action: "add" });
  });
  it("are renumbered in list order, past locked numbers and by ranges of classes", () => {
    const locked = modelOf({
      ...view,
      lines: view.lines.map((l) => (l.id === "a" ? { ...l, item: 20, item_locked: true } : l)),
    });
    expect(renumber(locked, 10, 10, {}).map((r) => [r.line.id, r.item])).toEqual([
      ["b", 10],
      ["s", 30],
    ]);
    expect(renumber(model, 10, 10, { Nuts: 500 }).map((r) => r.item)).toEqual([10, 500, 20]);
  });
});

describe("what is on screen", () => {
  const keys = (open: string[], bands = true, kept = false) =>
    visibleRows(model, new Set(open), bands, false, kept, { below: null, operation: null, beside: null }).map(
      (r) => r.key,
    );
  it("shows bands with their lines, or lines alone", () => {
    expect(keys([])).toEqual(["/o10", "/a", "/b", "/o20", "/s"]);
    expect(keys([], false)).toEqual(["/a", "/b", "/s"]);
  });
  it("opens lines in place, with what the job takes along the path", () => {
    const rows = visibleRows(model, new Set(["/s"]), false, false, false, {
      below: null,
      operation: null,
      beside: null,
    });
    expect(rows.at(-1)).toMatchObject({ key: "/s/sb", level: 1, own: false, needed: 4, share: 2 });
  });
  it("keeps lines off, unless asked", () => {
    const off = modelOf({
      ...view,
      lines: view.lines.map((l) => (l.id === "a" ? { ...l, kept_off: ["lines"] as ["lines"] } : l)),
    });
    const shown = (kept: boolean) =>
      visibleRows(off, new Set(), false, false, kept, { below: null, operation: null, beside: null }).length;
    expect([shown(false), shown(true)]).toEqual([2, 3]);
  });
  it("has empty rows to type into: below the row asked for, behind what stands open, and at the foot", () => {
    const rows = visibleRows(model, new Set(["/s"]), true, true, false, {
      below: "/s",
      operation: "Weld",
      beside: "o10",
    });
    expect(rows.slice(-4).map((r) => r.key)).toEqual(["/s/sb", "new-here", "new-line", "new-operation"]);
    expect(rows.slice(0, 2).map((r) => r.key)).toEqual(["/o10", "new-resource"]);
    expect(rows.at(-1)).toMatchObject({ name: "Weld" });
  });
});

describe("a view", () => {
  it("shows changes on their way; what somebody took away does not come back by being changed", () => {
    const gone = { table: "line" as const, id: "zz", before: { quantity: "1" }, after: { quantity: "2" } };
    expect(overlay(view, [gone]).lines).toEqual(view.lines);
    const made = overlay(view, [{ table: "line", id: "n", before: null, after: { part: "UNKNOWN", position: 9 } }]);
    expect(made.lines.at(-1)).toMatchObject({ child: -1, typedPart: "UNKNOWN" });
    const small = overlay(view, setLine(view, line("a"), { part: "b" }));
    expect(small.lines[0]).toMatchObject({ child: 2, typedPart: undefined });
  });
  it("takes the figures of an edit: own rows anew, others where they moved", () => {
    const own = view.lines.filter((l) => l.parent === 0);
    const edited = withEdit(view, view.sheet, {
      stamp: "t",
      missing: [],
      options: [],
      own_lines: { count: 1, same: own[0], each: { id: ["a"], cost: [1] }, elements: { material: [1] } },
      own_operations: { count: 0, same: {}, each: {}, elements: {} },
      needs: { rows: [2], need: [9] },
      parts: { rows: [3], each: { cost: [7], lot: [1] }, elements: { labor: [7] } },
      lines: { keys: ["sb"], each: { net: [2], gross: [2], cost: [7] }, elements: { labor: [7], scrap: [0] } },
      operations: { keys: [], each: { cost: [] }, elements: {} },
    } as unknown as Parameters<typeof withEdit>[2]);
    expect(edited.lines.map((l) => [l.id, l.cost])).toEqual([
      ["sb", 7],
      ["a", 1],
    ]);
    expect(edited.lines.map((l) => l.elements)).toEqual([{ labor: 7 }, { material: 1 }]);
    expect(edited.parts[3]).toMatchObject({ number: "SUB", cost: 7, elements: { labor: 7 } });
    // Of what is below only the need moved: its row is the one that stood there.
    expect(edited.needs[2]).toBe(9);
    expect(view.needs[2]).not.toBe(9);
    expect(edited.parts[2]).toBe(view.parts[2]);
    expect(edited.stamp).toBe("t");
  });
  it("keeps its operations as they were where an edit says nothing of them, with what they cost now", () => {
    const edited = withEdit(view, view.sheet, {
      stamp: "t",
      missing: [],
      options: [],
      own_lines: { count: 0, same: {}, each: {}, elements: {} },
      own_operations: null,
      needs: { rows: [], need: [] },
      parts: { rows: [], each: { cost: [] }, elements: {} },
      lines: { keys: [], each: { cost: [] }, elements: {} },
      operations: { keys: ["o10"], each: { cost: [9] }, elements: { labor: [9] } },
    } as unknown as Parameters<typeof withEdit>[2]);
    expect(edited.operations.map((o) => o.id)).toEqual(view.operations.map((o) => o.id));
    expect(edited.operations.find((o) => o.id === "o10")).toMatchObject({ cost: 9, elements: { labor: 9 } });
  });
  it("knows a line by the values that the server knows", () => {
    expect(lineValues(view, line("b"))).toMatchObject({ part: "B", unit: null, quantity: "3", operation: "o10" });
  });
});

describe("what is there", () => {
  const rows = (more: object, need = 40) => {
    const parts = view.parts.map((p) => (p.number === "B" ? { ...p, ...more } : p));
    const needs = view.parts.map((p, at) => (p.number === "B" ? need : view.needs[at]!));
    return visibleRows(modelOf({ ...view, parts, needs }), new Set(), false, false, false, {
      below: null,
      operation: null,
      beside: null,
    });
  };
  const b = (more: object, need?: number) => rows(more, need).find((r) => r.key === "/b") as LineRowOnScreen;
  const lacks = (more: object, job = false, need?: number) => {
    const row = b(more, need);
    return short(row.part, row.taken, job);
  };
  it("is short by what is neither there nor to come", () => {
    expect(lacks({ on_hand: 10, on_order: 25 })).toBe(5);
    expect(lacks({ on_hand: 10, on_order: 30 })).toBe(0);
    // What orders of the shop still take is not there for anybody else, whether it is on hand or not.
    expect(lacks({ on_hand: 10, on_order: 30, spoken_for: 8 })).toBe(8);
    expect(lacks({ on_hand: 10, on_order: 0, spoken_for: 25 })).toBe(40);
    // Of a job the need rounded up counts.
    expect(lacks({ on_hand: 10, on_order: 25, lot: 40 }, true, 39.2)).toBe(5);
    expect(lacks({ kind: "charge" })).toBeNull();
    expect(short(null, 40, false)).toBeNull();
  });
  it("is enough for whole products, by what a line really takes", () => {
    // The line takes 4 for each, of which 3 go in.
    expect([11.9, 12, 0].map((on_hand) => enoughFor(b({ on_hand })))).toEqual([2, 3, 0]);
    expect(enoughFor(b({ on_hand: 12, spoken_for: 4 }))).toBe(2);
  });
});
