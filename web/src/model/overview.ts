import type { Element } from "../lib/elements";
import type { Line } from "./change";
import type { Model } from "./product";
import type { PartRow } from "./wire";

/** A row of the overview: the product, a line somewhere below it, or the work on one of the sheets that stand open. */
export interface OverviewRow {
  key: string;
  /** 0 for the product itself. */
  level: number;
  /** None of it where the row is work. */
  part: PartRow | null;
  /** How many of the part are taken on all paths together; null where it does not count. */
  taken: number | null;
  line: Line | null;
  /** Of work: whose sheet it is on. */
  worksOn: PartRow | null;
  /** How many stand in one of the product; nothing where the line does not count. */
  quantity: number | null;
  /** What it adds to one of the product, and by element. */
  cost: number | null;
  elements: Partial<Record<Element, number>>;
  opens: boolean;
  open: boolean;
}

/** More than anybody reads; a product can be larger than that when every path is walked. */
export const MOST_ROWS = 50_000;

/**
 * Every level of a product by its paths, as deep as asked for. The rows of level 1, work included, add up to the product.
 * @param open whether a row at a level stands open
 * @returns the rows, and whether they are all
 */
export function overviewRows(
  model: Model,
  open: (key: string, level: number) => boolean,
): { rows: OverviewRow[]; whole: boolean } {
  const { view } = model;
  const top = view.parts[view.top]!;
  const rows: OverviewRow[] = [
    {
      ...{
        key: "",
        level: 0,
        part: top,
        taken: view.needs[view.top] ?? null,
        line: null,
        worksOn: null,
        quantity: 1,
        cost: top.cost ?? null,
      },
      ...{ elements: top.elements ?? {}, opens: false, open: true },
    },
  ];
  const walk = (part: number, path: string, level: number, share: number) => {
    for (const line of model.lines.get(part) ?? []) {
      const child = view.parts[line.child] ?? null;
      if (!child || rows.length >= MOST_ROWS) continue;
      const key = `${path}/${line.id}`;
      const counts = line.net !== null && line.net !== undefined;
      const opens = line.kind === "component" && level < 40 && (model.lines.has(line.child) || works(line.child));
      const isOpen = opens && open(key, level);
      rows.push({
        ...{ key, level, part: child, taken: view.needs[line.child] ?? null, line, worksOn: null, opens, open: isOpen },
        quantity: counts ? line.net! * share : null,
        cost: counts ? (line.cost ?? 0) * share : null,
        elements: counts ? times(line.elements ?? {}, share) : {},
      });
      if (isOpen) walk(line.child, key, level + 1, counts ? share * line.net! : 0);
    }
    if (!works(part)) return;
    const done = view.operations.filter((o) => o.parent === part);
    const elements: Partial<Record<Element, number>> = {};
    for (const operation of done)
      for (const [name, value] of Object.entries(operation.elements ?? {}) as [Element, number][])
        elements[name] = (elements[name] ?? 0) + value * share;
    rows.push({
      ...{
        key: `${path}/work`,
        level,
        part: null,
        taken: null,
        line: null,
        worksOn: view.parts[part]!,
        quantity: null,
      },
      cost: done.reduce((sum, o) => sum + (o.cost ?? 0) * share, 0),
      ...{ elements, opens: false, open: false },
    });
  };
  const works = (part: number) => model.operations.has(part);
  walk(view.top, "", 1, 1);
  return { rows, whole: rows.length < MOST_ROWS };
}

/** How many levels a product has below itself. */
export function depthOf(model: Model): number {
  const known = new Map<number, number>();
  const below = (part: number): number => {
    const held = known.get(part);
    if (held !== undefined) return held;
    // A loop cannot be saved; should one be on screen for a moment, it ends here.
    known.set(part, 0);
    const lines = (model.lines.get(part) ?? []).filter((l) => model.view.parts[l.child]);
    const deep = lines.length === 0 ? 0 : 1 + Math.max(...lines.map((l) => below(l.child)));
    known.set(part, deep);
    return deep;
  };
  return below(model.view.top);
}

function times(elements: Partial<Record<Element, number>>, by: number): Partial<Record<Element, number>> {
  return Object.fromEntries(Object.entries(elements).map(([name, value]) => [name, value * by]));
}
