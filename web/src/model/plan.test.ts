import { describe, expect, it } from "vitest";
import {
  arrivalWords,
  boughtOf,
  costAt,
  countedNeeds,
  type LookedAt,
  type Need,
  PLAN_AS_FILE,
  ratioPlace,
  reachOf,
  shownNeeds,
  stairsOf,
  whySoMany,
} from "./plan";

const offer = (more: Partial<LookedAt> = {}): LookedAt => ({
  ...({} as LookedAt),
  supplier: "S",
  rate: "1",
  breaks: [
    ["1", "0.50"],
    ["500", "0.40"],
  ],
  minimum: "0",
  multiple: "1",
  available: null,
  arrives: "2027-01-10",
  ...more,
});

const need = (more: Partial<Need> = {}): Need => ({
  ...({} as Need),
  id: 1,
  part: "RES-1",
  description: "Resistor",
  quantity: "430",
  reason: "",
  bought: [],
  ...more,
});

const bought = (more: Partial<Need["bought"][number]>) => ({
  offer: 1,
  part: "",
  supplier: "S",
  quantity: "500",
  price: "0.4",
  cost: "200",
  surplus: "70",
  by_hand: false,
  ...more,
});

describe("the price ladder", () => {
  it("has a stair for each price, from the least that is sold to what is there", () => {
    expect(stairsOf(offer(), 1000)).toEqual([
      { from: 1, to: 500, price: 0.5 },
      { from: 500, to: 1000, price: 0.4 },
    ]);
    expect(stairsOf(offer({ minimum: "50", available: "300" }), 1000)).toEqual([{ from: 50, to: 300, price: 0.5 }]);
  });
  it("turns prices at the rate of the plan", () => {
    expect(stairsOf(offer({ rate: "0.5" }), 1000)[0]?.price).toBe(0.25);
    expect(costAt(offer({ rate: "0.5" }), 100)).toBe(25);
    expect(costAt(offer({ rate: null }), 100)).toBeNull();
    expect(costAt(offer(), 0.5)).toBeNull();
  });
  it("says why more is bought than is needed", () => {
    expect(whySoMany(offer(), 430, 500)).toBe("500 cost 200.00, just 430 would cost 215.00");
    expect(whySoMany(offer({ multiple: "100" }), 430, 430)).toBe("");
    expect(whySoMany(offer({ multiple: "25", breaks: [["1", "2"]] }), 430, 450)).toBe("they sell it in 25s");
    expect(whySoMany(offer({ minimum: "600", breaks: [["1", "2"]] }), 430, 600)).toBe("they sell at least 600");
    expect(whySoMany(offer({ breaks: [["1", "2"]] }), 10, 40)).toBe(
      "it lifts the order over its minimum, or a price is reached",
    );
  });
  it("reaches over every price and every mark, equal ratios equally far apart", () => {
    const reach = reachOf([offer()], [430, 500]);
    expect(reach.most).toBe(800);
    expect(reach.least).toBeLessThan(430);
    expect(reach.price).toBeGreaterThan(0.5);
    expect(reach.low).toBeLessThan(0.4);
    expect(reach.low).toBeGreaterThan(0);
    const at = (n: number) => ratioPlace(n, reach);
    expect(at(800)).toBeCloseTo(1);
    expect(at(reach.least)).toBe(0);
    expect(at(400) - at(200)).toBeCloseTo(at(200) - at(100));
  });
  it("counts the days between the goods and the need", () => {
    expect(arrivalWords(offer(), "2027-01-12")).toBe("2 d early");
    expect(arrivalWords(offer(), "2027-01-10")).toBe("on the day");
    expect(arrivalWords(offer(), "2027-01-07")).toBe("3 d late");
    expect(arrivalWords(offer(), null)).toBe("here 10 Jan 2027");
    expect(arrivalWords(offer({ arrives: "" }), null)).toBe("");
  });
});

describe("the needs of a plan", () => {
  const two = need({
    id: 2,
    part: "SCR-1",
    description: "Screw",
    bought: [bought({}), bought({ supplier: "T", by_hand: true, surplus: "0" })],
  });
  const gone = need({ id: 3, reason: "no offer" });
  const there = need({ id: 4, quantity: "0" });
  it("say what stands in for what is needed, also in a file", () => {
    const instead = need({ id: 5, bought: [bought({ part: "B-2" }), bought({})] });
    expect([boughtOf(instead).as, boughtOf(two).as]).toEqual(["B-2", ""]);
    const as = PLAN_AS_FILE.find((c) => c.title === "Bought as")!;
    expect([as.value(instead), as.value(two)]).toEqual(["B-2", null]);
  });
  it("are counted by what is left to look at", () => {
    expect(countedNeeds([two, gone, there])).toEqual({
      all: 3,
      "to buy": 2,
      "not covered": 1,
      "by hand": 1,
      "more than needed": 1,
      "in stock": 1,
    });
  });
  it("are found by words, those of their supplier too", () => {
    expect(shownNeeds([two, gone], "all", "t screw").map((n) => n.id)).toEqual([2]);
    expect(shownNeeds([two, gone], "not covered", "").map((n) => n.id)).toEqual([3]);
  });
  it("add up what is bought of them", () => {
    expect(boughtOf(two)).toEqual({ suppliers: "S and T", as: "", quantity: 1000, cost: 400, surplus: 70 });
  });
});
