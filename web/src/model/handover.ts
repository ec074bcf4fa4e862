import type { Schemas } from "../lib/api";

export type Compared = Schemas["CompareOut"];
export type SideRow = Schemas["SideRow"];
export type SideField = Schemas["SideField"];
export type Choice = "ours" | "theirs" | "leave";

/** A part with rows beneath it, or a row. */
export interface Shown {
  /** For the grid: its place in all rows. */
  id: number;
  part: Schemas["SidePart"];
  row?: SideRow;
  /** How many rows beneath a part do not agree, and how many of them wait for somebody. */
  count: number;
  open: number;
}

/** Verdicts in the order in which they are told. */
export const VERDICTS = [
  "we moved",
  "they moved",
  "both moved",
  "differs",
  "only here",
  "only there",
  "kept by hand",
  "agrees",
] as const;

/** How many rows have each verdict. */
export function counts(rows: SideRow[]): Record<string, number> {
  const found: Record<string, number> = {};
  for (const row of rows) found[row.verdict] = (found[row.verdict] ?? 0) + 1;
  return found;
}

/** The rows beneath their parts, in the order of the product; with a verdict only those that have it. */
export function shown(compared: Compared, verdict = ""): Shown[] {
  const beneath = new Map<string, SideRow[]>();
  for (const row of compared.rows) {
    if (verdict && row.verdict !== verdict) continue;
    const rows = beneath.get(row.part);
    if (rows) rows.push(row);
    else beneath.set(row.part, [row]);
  }
  const listed: Shown[] = [];
  let id = 0;
  for (const part of compared.parts) {
    const rows = beneath.get(part.number);
    if (!rows) continue;
    listed.push({ id: ++id, part, count: rows.length, open: rows.filter((r) => r.open || r.moved_on).length });
    for (const row of rows) listed.push({ id: ++id, part, row, count: 0, open: 0 });
  }
  return listed;
}

/** The parts of a branch: the one named, and all beneath it. */
export function branch(compared: Compared, number: string): Set<string> {
  const at = compared.parts.findIndex((p) => p.number === number);
  const found = new Set<string>();
  if (at < 0) return found;
  const top = compared.parts[at]!.level;
  found.add(number);
  for (const part of compared.parts.slice(at + 1)) {
    if (part.level <= top) break;
    found.add(part.number);
  }
  return found;
}

export type Decision = Schemas["DecisionIn"];

/** What one choice decides of some rows: of each all its fields, or one of them; rows that do not know the choice are passed by. */
export function decisions(rows: SideRow[], choice: Choice | "", field?: string): Decision[] {
  return rows.flatMap((row) => {
    if (row.verdict === "agrees" || (choice && !row.choices.includes(choice))) return [];
    if (row.fields.length === 0) return field ? [] : [{ row: row.key, field: "", choice, of: row.of }];
    return row.fields
      .filter((f) => !field || f.name === field)
      .map((f) => ({ row: row.key, field: f.name, choice, of: f.of }));
  });
}

/** The next row behind one that waits for somebody, or the first one. */
export function nextOpen(listed: Shown[], id: number | null): Shown | undefined {
  const waits = (s: Shown) => s.row !== undefined && (s.row.open || s.row.moved_on);
  return listed.find((s) => s.id > (id ?? 0) && waits(s)) ?? listed.find(waits);
}

const SAID: Record<string, string> = { ours: "ours", theirs: "theirs", leave: "left as it is" };

/** What is to stand of a row, in words. */
export function toStand(row: SideRow): string {
  if (row.verdict === "kept by hand") return "stays theirs";
  if (row.verdict === "agrees") return "";
  if (row.moved_on) return "decide again";
  if (row.open) return "decide";
  const each = row.fields.length
    ? row.fields.map((f) => f.choice || f.proposal || "leave")
    : [row.choice || row.proposal || "leave"];
  const all = [...new Set(each)];
  return all.length === 1 ? SAID[all[0]!]! : "some of each";
}

/** Whether what is to stand is what is proposed, and nobody has said otherwise. */
export function proposed(row: SideRow): boolean {
  return row.fields.length ? row.fields.every((f) => !f.choice) : !row.choice;
}

/** A value as a person reads it. */
export function said(value: unknown): string {
  if (value === null || value === undefined || value === "") return "–";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (Array.isArray(value)) return value.length ? value.join(", ") : "–";
  return String(value);
}

/** What a row says on one side, short: its first field, and how many more. */
export function short(row: SideRow, side: "ours" | "theirs"): string {
  const [first] = row.fields;
  if (first) return said(first[side]);
  const here = row.verdict === "only here" ? "ours" : "theirs";
  if (here !== side || row.verdict === "agrees") return "";
  return row.stated
    .filter((s) => ["quantity", "unit", "description", "name", "run, min"].includes(s.word))
    .map((s) => said(s.value))
    .join(" ");
}
