import { describe, expect, it } from "vitest";
import { moved, readWanted, same, USUAL, writeWanted } from "./wanted";

describe("how a list is made, in the address", () => {
  it("comes back as it was written, headings with any character", () => {
    const wanted = {
      arrangement: "summed",
      columns: [
        { key: "number", title: "Teil = Nr." },
        { key: "own:Farbe & Lack", title: "Farbe, ü" },
      ],
      sort: "number",
      down: true,
      keep_out: ["kind:made", "part:A=1"],
      decimal: ",",
    };
    const before = new URLSearchParams("part=A&part=B&quantity=5&kept=3");
    const address = new URLSearchParams(writeWanted(before, wanted).toString());
    expect(readWanted(address)).toEqual(wanted);
    expect(address.getAll("part")).toEqual(["A", "B"]);
    expect([address.get("quantity"), address.get("kept")]).toEqual(["5", null]);
  });

  it("is the usual list where an address says nothing", () => {
    expect(readWanted(new URLSearchParams("part=A"))).toEqual(USUAL);
    expect(same(readWanted(new URLSearchParams()), USUAL)).toBe(true);
    expect(same({ ...USUAL, down: true }, USUAL)).toBe(false);
  });

  it("moves a column no further than the ends", () => {
    const keys = (by: number, key = "number") => moved(USUAL.columns, key, by).map((c) => c.key);
    expect(keys(-1)).toEqual(["number", "item", "description", "quantity", "unit"]);
    expect(keys(-5)).toEqual(["number", "item", "description", "quantity", "unit"]);
    expect(keys(9, "item")).toEqual(["number", "description", "quantity", "unit", "item"]);
  });
});
