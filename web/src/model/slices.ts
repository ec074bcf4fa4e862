import { ELEMENTS, type Element } from "../lib/elements";
import type { Model } from "./product";
import type { ByElement } from "./wire";

type Costs = NonNullable<ByElement>;

/** A piece of what a product costs. */
export interface Slice {
  key: string;
  name: string;
  cost: number;
  elements: Costs;
  /** What most of it is. */
  mostly: Element;
  /** A made part: what it is made of are its children. */
  opens: boolean;
  /** Which part it is, and how many of it stand in the product. */
  within: { part: number; scale: number } | null;
  children: Slice[];
}

/** A whole product as the slice that all others are parts of. */
export function wholeOf(model: Model, depth: number): Slice {
  const { view } = model;
  const top = view.parts[view.top]!;
  const whole = { name: top.number, cost: top.cost ?? 0, elements: top.elements ?? {}, mostly: ELEMENTS[0] };
  const within = { part: view.top, scale: 1 };
  return { ...whole, key: "", opens: true, within, children: slicesIn({ key: "", within }, model, depth, whole.cost) };
}

/**
 * What a slice is made of, so many levels deep, the dearest first. What is less than a thousandth of `whole` each is one slice
 * together: nobody could see it, and a list of thousands would be drawn thousands of times.
 */
export function slicesIn(
  { key: path, within }: Pick<Slice, "key" | "within">,
  model: Model,
  depth: number,
  whole: number,
): Slice[] {
  if (!within) return [];
  const { part, scale } = within;
  const { view } = model;
  const slices: Slice[] = [];
  const small: { cost: number; elements: Costs }[] = [];
  const seen = (cost: number, elements: Costs) => {
    if (cost * scale * 1000 >= whole) return true;
    small.push({ cost, elements });
    return false;
  };
  for (const line of model.lines.get(part) ?? []) {
    const child = view.parts[line.child];
    if (!child || !line.cost || line.cost <= 0 || !line.elements || !seen(line.cost, line.elements)) continue;
    const opens = line.kind === "component" && (model.lines.has(line.child) || model.operations.has(line.child));
    const slice = {
      key: `${path}/${line.id}`,
      name: `${child.number} ${child.description}`,
      cost: line.cost * scale,
      elements: scaled(line.elements, scale),
      mostly: mostly(line.elements),
      opens,
      within: { part: line.child, scale: scale * (line.net ?? 0) },
    };
    slices.push({ ...slice, children: opens && depth > 1 ? slicesIn(slice, model, depth - 1, whole) : [] });
  }
  for (const operation of model.operations.get(part) ?? []) {
    if (!operation.cost || !operation.elements || !seen(operation.cost, operation.elements)) continue;
    slices.push({
      key: `${path}/${operation.id}`,
      name: `${operation.sequence} ${operation.name}`,
      cost: operation.cost * scale,
      elements: scaled(operation.elements, scale),
      mostly: mostly(operation.elements),
      opens: false,
      within: null,
      children: [],
    });
  }
  slices.sort((a, b) => b.cost - a.cost);
  if (small.length === 0) return slices;
  const elements: Costs = {};
  for (const one of small)
    for (const element of ELEMENTS)
      if (one.elements[element]) elements[element] = (elements[element] ?? 0) + one.elements[element] * scale;
  slices.push({
    key: `${path}/small`,
    name: small.length === 1 ? "one that is too small to show" : `${small.length} that are too small to show`,
    cost: small.reduce((sum, one) => sum + one.cost, 0) * scale,
    elements,
    mostly: mostly(elements),
    opens: false,
    within: null,
    children: [],
  });
  return slices;
}

function mostly(elements: Costs): Element {
  let best: Element = ELEMENTS[0];
  for (const element of ELEMENTS) if ((elements[element] ?? 0) > (elements[best] ?? 0)) best = element;
  return best;
}

function scaled(elements: Costs, scale: number): Costs {
  return Object.fromEntries(Object.entries(elements).map(([name, value]) => [name, value * scale]));
}
