import { describe, expect, it } from "vitest";
import { alike } from "./alike";

const row = () => ({
  key: "/a",
  level: 0,
  line: { id: "a", quantity: "2", scrap_percent: null, kept_off: ["lines"], elements: { material: 1 } },
});

describe("rows that say the same", () => {
  it("are alike, though each came by itself", () => {
    expect(alike(row(), row())).toBe(true);
  });

  it.each([
    ["another figure", { ...row(), line: { ...row().line, quantity: "3" } }],
    ["a figure more", { ...row(), line: { ...row().line, elements: { material: 1, labor: 2 } } }],
    ["a figure less", { ...row(), line: { ...row().line, elements: {} } }],
    ["something where nothing was", { ...row(), line: { ...row().line, scrap_percent: "0" } }],
    ["nothing where something was", { ...row(), line: null }],
    ["another list", { ...row(), line: { ...row().line, kept_off: ["lines", "print"] } }],
    ["a list that became a record", { ...row(), line: { ...row().line, kept_off: { 0: "lines" } } }],
    ["one name for another", { key: "/a", level: 0, lines: row().line }],
  ])("are not alike: %s", (_, other) => {
    expect(alike(row(), other)).toBe(false);
    expect(alike(other, row())).toBe(false);
  });
});
