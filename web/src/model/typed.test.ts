import { expect, it } from "vitest";
import { readDay, typed } from "../lib/number";

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
