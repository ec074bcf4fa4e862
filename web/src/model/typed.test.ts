import { expect, it } from "vitest";
import { minutesText, money, quantity, readDay, typed, typedMinutes } from "../lib/number";

it.each([
  ["2", "2"],
  [" 1,5 ", "1.5"],
  ["-0,25", "-0.25"],
  ["1 234", "1234"],
  ["1\u202f234,5", "1234.5"],
  ["1,234.5", "1234.5"],
  ["1.234,5", "1234.5"],
  ["1,234,567", "1234567"],
  ["1/4", "0.25"],
  ["2 1/2", "2.5"],
  ["-3/8", "-0.375"],
  // What is no number, or could be two, stays as it was typed: the server says what is wrong with it.
  ["1,234", "1,234"],
  ["1/3", "1/3"],
  ["1/0", "1/0"],
  ["12 34", "12 34"],
  ["two", "two"],
  ["", ""],
])("reads %j as %j", (text, read) => expect(typed(text)).toBe(read));

it.each([
  ["2026-3-1", "2026-03-01"],
  ["1 Mar 2026", "2026-03-01"],
  ["1.3.2026", "2026-03-01"],
  ["31.2.2026", null],
  ["5/6/2026", null],
])("reads the day %j as %j", (text, day) => expect(readDay(text)).toBe(day));

it.each([
  ["45", "45", "45"],
  ["45 min", "45", "45"],
  ["2 h", "120", "2 h"],
  ["1,5h", "90", "90"],
  ["1/2 h", "30", "30"],
  ["2 days", "2880", "2 d"],
  ["36 h", "2160", "36 h"],
  ["", "", ""],
  // What is no time stays as it was typed, and the server says so.
  ["2 weeks", "2 weeks", "2 weeks"],
])("reads the time %j as %j minutes, shown as %j", (text, read, shown) => {
  expect(typedMinutes(text)).toBe(read);
  expect(minutesText(read)).toBe(shown);
});

it("writes a figure by its size and the places asked for, and again as it did before", () => {
  // Far more than are kept: what was let go is written anew, as it was.
  for (const turn of [1, 2])
    for (let n = 0; n < 6000; n += 1) {
      if (n % 1500 === turn)
        expect(quantity(n + 0.12345, 2)).toBe(
          `${n >= 1000 ? `${Math.floor(n / 1000)}\u202f${String(n % 1000).padStart(3, "0")}` : n}.12`,
        );
      quantity(n + 0.12345, 3);
    }
  expect([quantity(2.5, 0), quantity(2.5, 4), money(2.5), money(0.0125)]).toEqual(["3", "2.5", "2.50", "0.0125"]);
  expect([quantity(-0), quantity(0), money(-0)]).toEqual(["0", "0", "0.00"]);
});
