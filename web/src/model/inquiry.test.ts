import { describe, expect, it } from "vitest";
import {
  AS_FILE,
  buildable,
  changeWords,
  counted,
  howWords,
  type InquiryLine,
  laidOver,
  linesOf,
  nextOpen,
  pieces,
  shownLines,
  topsOf,
} from "./inquiry";

const line = (id: number, more: Partial<InquiryLine> = {}): InquiryLine => ({
  ...({} as InquiryLine),
  id,
  part: `K-${id}`,
  description: "Resistor 10k",
  maker: "",
  maker_number: "",
  designators: "",
  ours: "",
  our_description: "",
  state: "open",
  road: "",
  proposals: [0, "", "", false],
  findings: [],
  changed: {},
  asked: 0,
  answered: 0,
  ...more,
});
const found = (waived: boolean) => ({
  code: "unit",
  severity: "look" as const,
  message: "",
  mend: "",
  field: "",
  waived: waived ? { reason: "so", by: "me", at: "" } : null,
});

describe("lines of an inquiry", () => {
  it("come as columns, and what is the same in all of them comes once", () => {
    const rows = linesOf({ count: 2, same: { state: "open", unit: "ea" }, each: { id: [4, 5], part: ["A", "B"] } });
    expect(rows.map((r) => [r.id, r.part, r.unit])).toEqual([
      [4, "A", "ea"],
      [5, "B", "ea"],
    ]);
  });
  it("that were written since lie over those that stood there, in their places", () => {
    const lines = [line(1), line(2), line(3)];
    const next = laidOver(lines, [line(2, { state: "paired" })]);
    expect(next.map((l) => l.state)).toEqual(["open", "paired", "open"]);
    expect(laidOver(lines, [])).toBe(lines);
  });
  it("are counted by what is left to do", () => {
    const lines = [
      line(1, { proposals: [1, "P", "exact", true] }),
      line(2, { findings: [found(false)] }),
      line(3, { findings: [found(true)], state: "paired" }),
      line(4, { state: "out", asked: 1, changed: { quantity: "2" } }),
    ];
    expect(counted(lines)).toEqual({
      all: 4,
      undecided: 2,
      certain: 1,
      "nothing like it": 1,
      found: 1,
      asked: 1,
      changed: 1,
    });
  });
  it("stay in sight at the cursor whatever is filtered", () => {
    const lines = [line(1, { state: "paired" }), line(2), line(3, { part: "Z" })];
    expect(shownLines(lines, "undecided", "", 1).map((l) => l.id)).toEqual([1, 2, 3]);
    expect(shownLines(lines, "undecided", "k- resis", null).map((l) => l.id)).toEqual([2]);
  });
  it("lead on to the next that is open, round the end of the list", () => {
    const lines = [line(1), line(2, { state: "paired" }), line(3)];
    expect([nextOpen(lines, 1), nextOpen(lines, 3), nextOpen(lines, 2), nextOpen(lines, null)]).toEqual([3, 1, 3, 1]);
    expect(nextOpen([line(1), line(2, { state: "out" })], 1)).toBeNull();
  });
  it("say how they came to what they are held for", () => {
    const say = (more: Partial<InquiryLine>) => howWords(line(1, more));
    expect(say({ state: "out" })).toBe("left out");
    expect(say({ state: "paired", road: "new" })).toBe("new part");
    expect(say({ state: "paired", road: "near" })).toBe("near");
    expect(say({ proposals: [3, "P", "by values", false] })).toBe("by values? (3)");
    expect(say({ proposals: [1, "P", "near", false] })).toBe("near?");
    expect(say({ proposals: [2, "P", "exact", true] })).toBe("exact, certain");
    expect(say({})).toBe("nothing like it");
    expect(changeWords(line(1, { changed: { "": "added" } }))).toBe("new with this revision");
    expect(changeWords(line(1, { changed: { quantity: "2", maker_number: "" } }))).toBe(
      "was: quantity 2, maker number –",
    );
  });
  it("know what their lists are for, and leave as they stand", () => {
    const lines = [
      line(1, { file: 7, sheet: "", row: 0 }),
      line(2, { file: 7, sheet: "", row: 3 }),
      line(3, {
        file: 8,
        sheet: "",
        row: 2,
        state: "paired",
        ours: "P-1",
        our_description: "ours",
        road: "near",
        by: "me",
      }),
    ];
    expect(topsOf(lines).map((l) => l.id)).toEqual([1, 3]);
    const said = Object.fromEntries(AS_FILE.map((c) => [c.title, c.value(lines[2]!)]));
    expect(said).toMatchObject({ row: "2", "we hold it for": "P-1", how: "near", "decided by": "me", changed: "" });
    expect(AS_FILE[0]!.value(lines[0]!)).toBe("");
    const waived = line(4, {
      findings: [
        { ...found(true), message: "ended" },
        { ...found(false), message: "twice" },
      ],
    });
    const about = Object.fromEntries(AS_FILE.map((c) => [c.title, c.value(waived)]));
    expect([about["what stands against it"], about["may stand"]]).toEqual(["twice", "ended: so"]);
  });
  it("show where in their text values were read", () => {
    const text = "Cap 100n 25V";
    const spans = [
      { start: 9, end: 12, field: "voltage" },
      { start: 4, end: 8, field: "capacitance" },
    ];
    expect(pieces(text, spans)).toEqual([
      ["Cap ", ""],
      ["100n", "capacitance"],
      [" ", ""],
      ["25V", "voltage"],
    ]);
    expect(pieces(text, [{ start: 4, end: 99, field: "x" }])).toEqual([[text, ""]]);
  });
});

describe("what can be built in a quantity", () => {
  const head = line(1, { file: 1, sheet: "", row: 0, level: 0 });
  const outer = line(2, { file: 1, sheet: "", row: 2, level: 1, ours: "HL-155" });
  const open = line(3, { file: 1, sheet: "", row: 3, level: 1 });
  const inner = line(4, { file: 1, sheet: "", row: 4, level: 2, ours: "SCR-1" });
  it("is the head, and lines that are held for ours where the head is not", () => {
    expect(buildable([head, outer, open, inner], []).map((l) => l.id)).toEqual([1, 2]);
    expect(buildable([{ ...head, ours: "HL-200" }, outer, open, inner], []).map((l) => l.id)).toEqual([1]);
  });
  it("keeps what was wanted before", () => {
    expect(buildable([head, outer, open, inner], [4]).map((l) => l.id)).toEqual([1, 2, 4]);
  });
});
