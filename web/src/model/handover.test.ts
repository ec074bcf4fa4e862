import { describe, expect, test } from "vitest";
import { branch, type Compared, counts, decisions, nextOpen, type SideRow, short, shown, toStand } from "./handover";

const field = (name: string, more: Partial<SideRow["fields"][number]> = {}) => ({
  name,
  word: name,
  agreed: "1",
  ours: "2",
  theirs: "3",
  verdict: "both moved",
  proposal: null,
  choice: "",
  by: "",
  of: `of ${name}`,
  ...more,
});

const row = (key: string, part: string, more: Partial<SideRow> = {}): SideRow => ({
  key,
  kind: "lines",
  part,
  alternate: "A",
  words: key,
  about: "",
  verdict: "both moved",
  was_agreed: true,
  fields: [field("quantity")],
  stated: [],
  proposal: null,
  choice: "",
  by: "",
  of: "whole",
  choices: ["ours", "theirs", "leave"],
  moved_on: false,
  open: true,
  ...more,
});

const part = (number: string, level: number) => ({
  number,
  description: "",
  level,
  ours: true,
  known_as: "",
  sheets: [],
});

const compared = {
  rows: [
    row("a", "TOP"),
    row("b", "SUB", {
      verdict: "we moved",
      open: false,
      fields: [field("quantity", { proposal: "ours" }), field("unit")],
    }),
    row("c", "LEAF", {
      verdict: "only there",
      fields: [],
      open: false,
      proposal: "theirs",
      choices: ["theirs", "leave"],
    }),
    row("d", "OTHER", { verdict: "kept by hand", fields: [], open: false, choices: [] }),
  ],
  parts: [part("TOP", 0), part("SUB", 1), part("LEAF", 2), part("OTHER", 1)],
  agreeing: {},
  by_hand: [],
  stops: [],
  sheet: { record: "", top: "", sheets: [], changes: [], left: [] },
  digest: "",
} as Compared;

describe("a handover", () => {
  test("rows stand beneath their parts, and a verdict leaves only its own", () => {
    expect(shown(compared).map((s) => s.row?.key ?? s.part.number)).toEqual([
      "TOP",
      "a",
      "SUB",
      "b",
      "LEAF",
      "c",
      "OTHER",
      "d",
    ]);
    expect(shown(compared, "we moved").map((s) => s.row?.key ?? s.part.number)).toEqual(["SUB", "b"]);
    expect(shown(compared)[0]).toMatchObject({ count: 1, open: 1 });
    expect(counts(compared.rows)).toEqual({ "both moved": 1, "we moved": 1, "only there": 1, "kept by hand": 1 });
  });

  test("a branch is a part and all beneath it", () => {
    expect([...branch(compared, "SUB")]).toEqual(["SUB", "LEAF"]);
    expect([...branch(compared, "TOP")]).toEqual(["TOP", "SUB", "LEAF", "OTHER"]);
    expect([...branch(compared, "NONE")]).toEqual([]);
  });

  test("one choice decides all fields of the rows that know it, or one field throughout", () => {
    expect(decisions(compared.rows, "ours")).toEqual([
      { row: "a", field: "quantity", choice: "ours", of: "of quantity" },
      { row: "b", field: "quantity", choice: "ours", of: "of quantity" },
      { row: "b", field: "unit", choice: "ours", of: "of unit" },
    ]);
    expect(decisions(compared.rows, "theirs", "unit").map((d) => d.row)).toEqual(["b"]);
    expect(decisions(compared.rows, "leave").map((d) => d.row)).toEqual(["a", "b", "b", "c"]);
  });

  test("the next row that waits is found from where one stands, and from the beginning again", () => {
    expect(nextOpen(shown(compared), null)?.row?.key).toBe("a");
    expect(nextOpen(shown(compared), 5)?.row?.key).toBe("a");
    const moved = { ...compared, rows: [compared.rows[0]!, { ...compared.rows[1]!, moved_on: true }] };
    expect(nextOpen(shown(moved), 2)?.row?.key).toBe("b");
  });

  test("what is to stand is said in words", () => {
    const [a, b, c, d] = compared.rows as [SideRow, SideRow, SideRow, SideRow];
    expect([a, b, c, d].map(toStand)).toEqual(["decide", "some of each", "theirs", "stays theirs"]);
    expect(toStand({ ...a, open: false, fields: [field("quantity", { choice: "leave" })] })).toBe("left as it is");
    expect(toStand({ ...b, moved_on: true })).toBe("decide again");
  });

  test("a row that one side has says nothing on the other", () => {
    const there = {
      ...compared.rows[2]!,
      stated: [
        { word: "quantity", value: "4" },
        { word: "waste", value: "1" },
      ],
    };
    expect([short(there, "ours"), short(there, "theirs")]).toEqual(["", "4"]);
    expect(short(compared.rows[0]!, "theirs")).toBe("3");
  });
});
