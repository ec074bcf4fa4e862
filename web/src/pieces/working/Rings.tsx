import { type HierarchyRectangularNode, hierarchy, partition } from "d3-hierarchy";
import { arc } from "d3-shape";
import { memo, useEffect, useMemo, useState } from "react";
import { ELEMENT_WORDS, ELEMENTS, type Element, elementColour } from "../../lib/elements";
import { money, percent } from "../../lib/number";
import type { Model } from "../../model/product";
import { type Slice, slicesIn, wholeOf } from "../../model/slices";

const RINGS = 3;
const INNER = 42;
const OUTER = 97;

/** The rings: the product in the middle, a ring per level, arc by share. A click enters an arc, Escape leaves it. */
export const Rings = memo(function Rings({
  model,
  label = "Where the money is",
  onEntered,
  onOpen,
}: {
  model: Model;
  label?: string;
  onEntered?: (leave: (() => void) | null) => void;
  /** Opens the working of a figure; what stands together in *other* is told by what it comes from. */
  onOpen?: (figure: string) => void;
}) {
  const [entered, setEntered] = useState<string[]>([]);
  const [over, setOver] = useState<Slice | null>(null);
  const top = model.view.parts[model.view.top]!;
  const root = useMemo(() => wholeOf(model, RINGS), [model]);
  const centre = useMemo(() => {
    let at = root;
    for (const key of entered) {
      const found = at.children.find((s) => s.key === key);
      if (!found?.within) break;
      at = { ...found, children: slicesIn(found, model, RINGS, found.cost) };
    }
    return at;
  }, [model, root, entered]);
  useEffect(() => {
    onEntered?.(entered.length > 0 ? () => setEntered((old) => old.slice(0, -1)) : null);
  }, [entered, onEntered]);

  const nodes = useMemo(() => {
    const tree = hierarchy<Slice>(centre, (s) => (s === centre || s.opens ? s.children : []));
    // What a made part loses to scrap stays as a gap beside its children.
    tree.eachAfter((node) => {
      const inside = node.children?.reduce((sum, child) => sum + child.value!, 0) ?? 0;
      (node as { value?: number }).value = Math.max(node.data.cost, inside);
    });
    return partition<Slice>()
      .size([2 * Math.PI, tree.height + 1])(tree)
      .descendants()
      .filter((n) => n.depth > 0 && n.depth <= RINGS);
  }, [centre]);
  const rings = Math.max(1, Math.min(RINGS, Math.max(0, ...nodes.map((n) => n.depth))));
  const width = (OUTER - INNER) / rings;
  const shape = arc<HierarchyRectangularNode<Slice>>()
    .startAngle((n) => n.x0)
    .endAngle((n) => n.x1)
    .padAngle(0.012)
    .innerRadius((n) => INNER + (n.depth - 1) * width + 1)
    .outerRadius((n) => INNER + n.depth * width);
  const total = root.cost;
  const elements = ELEMENTS.map((element) => [element, centre.elements[element] ?? 0] as const).filter(
    ([, value]) => value !== 0,
  );
  if (total <= 0) return null;
  return (
    <section aria-label={label} className="flex items-center gap-3">
      <svg
        viewBox="-100 -100 200 200"
        className="w-[180px] shrink-0"
        role="group"
        aria-label={`Rings of the cost of ${centre.name}`}
      >
        {nodes.map((node) => {
          const slice = node.data;
          const enter = () => {
            if (slice.opens) setEntered([...entered, ...pathTo(node)]);
          };
          return (
            <path
              key={slice.key}
              d={shape(node) ?? ""}
              role="button"
              tabIndex={node.depth === 1 ? 0 : -1}
              aria-label={`${slice.name}: ${money(slice.cost)}, ${percent(slice.cost / total)}`}
              // A made part is pale: its colours stand in the ring outside it.
              fill={slice.opens ? "var(--blue-line)" : elementColour(slice.mostly)}
              opacity={over?.key === slice.key ? 1 : slice.opens ? 0.95 : 0.86}
              className={slice.opens ? "cursor-pointer" : ""}
              onMouseEnter={() => setOver(slice)}
              onMouseLeave={() => setOver(null)}
              onFocus={() => setOver(slice)}
              onBlur={() => setOver(null)}
              onClick={enter}
              onKeyDown={(event) => {
                if (event.key === "Enter") enter();
                if (event.key === "Escape" && entered.length > 0) {
                  event.stopPropagation();
                  setEntered(entered.slice(0, -1));
                }
              }}
            />
          );
        })}
        <text y="-2" textAnchor="middle" className="fill-ink text-[19px] font-semibold">
          {money((over ?? centre).cost)}
        </text>
        <text y="11" textAnchor="middle" className="fill-ink-3 text-[9px]">
          {over || centre !== root ? percent((over ?? centre).cost / total) : `${model.view.currency} per ${top.unit}`}
        </text>
      </svg>
      <div className="min-w-0 flex-1 text-[11.5px]">
        <p className="mb-1.5 line-clamp-2 min-h-[2.6em] font-semibold" aria-live="polite">
          {over?.name ?? centre.name}
        </p>
        <ul className="grid gap-0.5 text-ink-2">
          {elements.map(([element, value]) => (
            <li key={element} className="flex items-center gap-1.5">
              <i
                className={`inline-block h-[9px] w-[9px] shrink-0 ${element === "scrap" ? "hatched" : ""}`}
                style={{ backgroundColor: elementColour(element) }}
              />
              {onOpen && centre.within ? (
                <button
                  type="button"
                  className="flex min-h-6 flex-1 items-center text-left hover:text-blue hover:underline"
                  onClick={() => onOpen(figureOf(element, model.view.parts[centre.within!.part]!.id))}
                >
                  {ELEMENT_WORDS[element]}
                  <span className="ml-auto">{money(value)}</span>
                </button>
              ) : (
                <>
                  <span>{ELEMENT_WORDS[element]}</span>
                  <span className="ml-auto">{money(value)}</span>
                </>
              )}
            </li>
          ))}
        </ul>
      </div>
    </section>
  );
});

const figureOf = (element: Element, part: number): string =>
  element === "other" ? `charges:${part}` : `element:${part}:${element}`;

function pathTo(node: HierarchyRectangularNode<Slice>): string[] {
  return node
    .ancestors()
    .filter((n) => n.depth > 0)
    .map((n) => n.data.key)
    .reverse();
}
