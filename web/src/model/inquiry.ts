import type { Schemas } from "../lib/api";

/** One line of a sender's list, what it is held for, and what stands against it. */
export interface InquiryLine {
  id: number;
  file: number;
  sheet: string;
  row: number;
  level: number | null;
  parent: string;
  item: string;
  part: string;
  description: string;
  quantity: string;
  unit: string;
  maker: string;
  maker_number: string;
  /** What columns of their own say of it. */
  value: string;
  case: string;
  material: string;
  own_fields: string;
  designators: string;
  note: string;
  not_fitted: boolean;
  customer_supplied: boolean;
  mended: string[];
  state: "open" | "paired" | "out";
  ours: string;
  our_description: string;
  road: string;
  by: string;
  /** How many parts it could be, and of the first its number, its road and whether it is certain. */
  proposals: [count: number, part: string, road: string, certain: boolean];
  findings: Found[];
  /** Of a later revision: field → what it said before; `{"": "added"}` for a new line. */
  changed: Record<string, string>;
  asked: number;
  answered: number;
  stamp: number;
}

export interface Found {
  code: string;
  severity: "stops" | "look";
  message: string;
  mend: string;
  field: string;
  waived: { reason: string; by: string; at: string } | null;
}

export type LineTable = Schemas["LineColumns"];

/** Rows out of columns. */
export function linesOf(table: LineTable): InquiryLine[] {
  const each = Object.entries(table.each);
  return Array.from({ length: table.count }, (_, at) => {
    const row: Record<string, unknown> = { ...table.same };
    for (const [name, column] of each) row[name] = column[at];
    return row as unknown as InquiryLine;
  });
}

/** Lines with those laid over that were written since, each in its place. */
export function laidOver(lines: InquiryLine[], written: InquiryLine[]): InquiryLine[] {
  if (written.length === 0) return lines;
  const fresh = new Map(written.map((line) => [line.id, line]));
  return lines.map((line) => fresh.get(line.id) ?? line);
}

/** What stands against a line and was not waived. */
export const against = (line: InquiryLine): Found[] => line.findings.filter((f) => !f.waived);

/** The field whose mending takes away what stands against a line first; "" where nothing typed does. */
export const mendable = (line: InquiryLine): string => against(line).find((f) => f.field)?.field ?? "";

/** What is left to do, by its word; and all of it. */
export const FILTERS = {
  all: () => true,
  undecided: (line) => line.state === "open",
  certain: (line) => line.state === "open" && line.proposals[3],
  "nothing like it": (line) => line.state === "open" && line.proposals[0] === 0,
  found: (line) => against(line).length > 0,
  asked: (line) => line.asked + line.answered > 0,
  changed: (line) => Object.keys(line.changed).length > 0,
} satisfies Record<string, (line: InquiryLine) => boolean>;

export type Filter = keyof typeof FILTERS;

/** How many lines each filter leaves. */
export function counted(lines: InquiryLine[]): Record<Filter, number> {
  const counts = Object.fromEntries(Object.keys(FILTERS).map((name) => [name, 0])) as Record<Filter, number>;
  for (const line of lines)
    for (const name of Object.keys(FILTERS) as Filter[]) if (FILTERS[name](line)) counts[name] += 1;
  return counts;
}

/** The lines a filter leaves that hold some words; the line at the cursor stays, so that deciding it does not lose one's place. */
export function shownLines(lines: InquiryLine[], filter: Filter, words: string, keep: number | null): InquiryLine[] {
  const wanted = words.toUpperCase().split(/\s+/).filter(Boolean);
  return lines.filter((line) => {
    if (line.id === keep) return true;
    if (!FILTERS[filter](line)) return false;
    if (wanted.length === 0) return true;
    const text =
      `${line.part} ${line.description} ${line.maker} ${line.maker_number} ${line.designators} ${line.ours} ${line.our_description}`.toUpperCase();
    return wanted.every((word) => text.includes(word));
  });
}

/** The next line behind one that nobody has decided, from the top again where there is none below; null where all are. */
export function nextOpen(lines: InquiryLine[], from: number | null): number | null {
  const at = lines.findIndex((line) => line.id === from);
  const round = [...lines.slice(at + 1), ...lines.slice(0, Math.max(at, 0))];
  return round.find((line) => line.state === "open")?.id ?? null;
}

/** How a line came to what it is held for, or how far it is. */
export function howWords(line: InquiryLine): string {
  if (line.state === "out") return "left out";
  if (line.state === "paired") return line.road === "new" ? "new part" : line.road;
  const [count, , road, certain] = line.proposals;
  if (count === 0) return "nothing like it";
  return certain ? `${road}, certain` : count === 1 ? `${road}?` : `${road}? (${count})`;
}

/** What changed with the later revision, in words. */
export function changeWords(line: InquiryLine): string {
  if ("" in line.changed) return "new with this revision";
  const names = Object.keys(line.changed);
  return names.length
    ? `was: ${names.map((n) => `${n.replaceAll("_", " ")} ${line.changed[n] || "–"}`).join(", ")}`
    : "";
}

/** What lists are for: their heads, and rows of the lowest level that others stand beneath. */
export function topsOf(lines: InquiryLine[]): InquiryLine[] {
  const first = new Map<string, InquiryLine>();
  for (const line of lines) {
    const list = `${line.file} ${line.sheet}`;
    if (!first.has(list)) first.set(list, line);
  }
  return [...first.values()];
}

/**
 * What of an inquiry can be built in a quantity: what its lists are for; of a list whose head is held for nothing of ours, its own
 * outermost lines that are; and what was wanted so far.
 */
export function buildable(lines: InquiryLine[], wanted: number[]): InquiryLine[] {
  const tops = topsOf(lines);
  const bare = new Set(tops.filter((top) => !top.ours).map((top) => `${top.file} ${top.sheet}`));
  const outer = Math.min(...lines.filter((l) => l.row > 0).map((l) => l.level ?? 1));
  const held = (l: InquiryLine) =>
    l.row > 0 && l.ours !== "" && (l.level ?? 1) === outer && bare.has(`${l.file} ${l.sheet}`);
  return lines.filter((l) => tops.includes(l) || held(l) || wanted.includes(l.id));
}

/** What columns of their own say of a part, by field and word. */
export const OF_PART: [field: string, word: string][] = [
  ["material", "material"],
  ["supplier", "supplier"],
  ["supplier_number", "supplier's number"],
  ["link", "link"],
  ["case", "case size"],
  ["lifecycle", "lifecycle"],
  ["value", "value"],
];

/** The lines as they stand, for a file: what they wrote, what we hold it for, what stands against it. */
export const AS_FILE: { title: string; number?: boolean; value: (line: InquiryLine) => string }[] = [
  { title: "row", value: (l) => (l.row ? String(l.row) : "") },
  { title: "level", value: (l) => (l.level === null ? "" : String(l.level)) },
  { title: "designators", value: (l) => l.designators },
  { title: "they call it", value: (l) => l.part },
  { title: "what they wrote", value: (l) => l.description },
  { title: "value", value: (l) => l.value },
  { title: "case size", value: (l) => l.case },
  { title: "material", value: (l) => l.material },
  { title: "own fields", value: (l) => l.own_fields },
  { title: "maker", value: (l) => l.maker },
  { title: "maker's number", value: (l) => l.maker_number },
  { title: "quantity", value: (l) => l.quantity },
  { title: "unit", value: (l) => l.unit },
  { title: "not fitted", value: (l) => (l.not_fitted ? "yes" : "") },
  { title: "they supply it", value: (l) => (l.customer_supplied ? "yes" : "") },
  { title: "we hold it for", value: (l) => (l.state === "paired" ? l.ours : "") },
  { title: "our description", value: (l) => (l.state === "paired" ? l.our_description : "") },
  { title: "how", value: howWords },
  { title: "decided by", value: (l) => l.by },
  {
    title: "what stands against it",
    value: (l) =>
      against(l)
        .map((f) => f.message)
        .join("; "),
  },
  {
    title: "may stand",
    value: (l) => l.findings.flatMap((f) => (f.waived ? [`${f.message}: ${f.waived.reason}`] : [])).join("; "),
  },
  { title: "changed", value: changeWords },
];

/** A text with the places in it that were read as values: pieces in their order, some of them named. */
export function pieces(text: string, spans: { start: number; end: number; field: string }[]): [string, string][] {
  const found: [string, string][] = [];
  let at = 0;
  for (const span of [...spans].sort((a, b) => a.start - b.start)) {
    if (span.start < at || span.end > text.length) continue;
    if (span.start > at) found.push([text.slice(at, span.start), ""]);
    found.push([text.slice(span.start, span.end), span.field]);
    at = span.end;
  }
  if (at < text.length) found.push([text.slice(at), ""]);
  return found;
}
