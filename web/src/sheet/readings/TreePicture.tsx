import { hierarchy, tree } from "d3-hierarchy";
import { useEffect, useMemo, useRef, useState } from "react";
import { Button } from "../../kit/Button";
import { money, quantity } from "../../lib/number";
import type { Line } from "../../model/change";
import type { Model } from "../../model/product";
import type { PartRow } from "../../model/wire";

interface Node {
  key: string;
  part: PartRow;
  line: Line | null;
  /** Lines below it, shown or not. */
  below: number;
  children: Node[];
}

const WIDE = 236;
const HIGH = 40;
const BOX = 184;
const MOST = 4000;

/** The tree below a part; a branch in `closed` shows its count alone. Stops at MOST nodes. */
function grow(model: Model, closed: (key: string, level: number) => boolean): { root: Node; whole: boolean } {
  const { view } = model;
  let left = MOST;
  const at = (part: number, line: Line | null, key: string, level: number): Node => {
    left -= 1;
    const lines = (model.lines.get(part) ?? []).filter(
      (l) => l.kind === "component" && view.parts[l.child] && l.net !== null && l.net !== undefined,
    );
    const shown = closed(key, level) || level > 40 ? [] : lines;
    const children: Node[] = [];
    for (const l of shown) if (left > 0) children.push(at(l.child, l, `${key}/${l.id}`, level + 1));
    return { key, part: view.parts[part]!, line, below: lines.length, children };
  };
  const root = at(view.top, null, "", 0);
  return { root, whole: left > 0 };
}

/** The product as a picture: every part a box, what it takes to its right. A click opens or closes a branch. */
export function TreePicture({ model, onPart }: { model: Model; onPart: (part: PartRow) => void }) {
  const { view } = model;
  // Few levels at first when all of it would be more than anyone can look at.
  const first = view.lines.length > 250 ? 2 : 99;
  const [turned, setTurned] = useState<Set<string>>(new Set());
  const [at, setAt] = useState("");
  const [view0, setView] = useState<[number, number]>([0, 800]);
  const box = useRef<HTMLDivElement>(null);
  const { root, whole } = useMemo(
    () => grow(model, (key, level) => level >= first !== turned.has(key)),
    [model, turned, first],
  );
  const laid = useMemo(() => {
    const nodes = tree<Node>()
      .nodeSize([HIGH, WIDE])
      .separation(() => 1)(hierarchy(root, (n) => n.children))
      .descendants();
    const top = Math.min(...nodes.map((n) => n.x));
    return {
      nodes: nodes.map((n) => ({ ...n.data, left: n.y + 12, top: n.x - top + 14, parent: n.parent?.data.key ?? null })),
      width: Math.max(...nodes.map((n) => n.y)) + BOX + 60,
      height: Math.max(...nodes.map((n) => n.x)) - top + HIGH + 20,
    };
  }, [root]);
  const places = useMemo(() => new Map(laid.nodes.map((n) => [n.key, n])), [laid]);
  // Where the product stood at first: a branch that opens later must not move the picture.
  const start = useRef(places.get("")?.top ?? 0);
  const current = places.get(at) ?? laid.nodes[0]!;
  const seen = laid.nodes.filter((n) => n.top > view0[0] - 400 && n.top < view0[1] + 400);
  const turn = (key: string) =>
    setTurned((old) => {
      const next = new Set(old);
      next.has(key) ? next.delete(key) : next.add(key);
      return next;
    });
  const go = (node: (typeof laid.nodes)[number] | undefined) => {
    if (!node) return;
    setAt(node.key);
    box.current?.scrollTo({
      left: Math.max(0, node.left - 300),
      top: Math.max(0, node.top - box.current.clientHeight / 2),
    });
  };
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    element.scrollTop = start.current - element.clientHeight / 2;
    const watch = () => setView([element.scrollTop, element.scrollTop + element.clientHeight]);
    watch();
    element.addEventListener("scroll", watch);
    return () => element.removeEventListener("scroll", watch);
  }, []);
  const siblings = (node: typeof current) =>
    laid.nodes.filter((n) => n.left === node.left).sort((a, b) => a.top - b.top);
  const press = (event: React.KeyboardEvent) => {
    const beside = siblings(current);
    const { key } = event;
    if (key === "ArrowUp" || key === "ArrowDown") go(beside[beside.indexOf(current) + (key === "ArrowUp" ? -1 : 1)]);
    else if (key === "ArrowLeft") go(places.get(current.parent ?? ""));
    else if (key === "ArrowRight" && current.children.length > 0) go(places.get(current.children[0]!.key));
    else if (key === "ArrowRight" || key === " ") current.below > 0 && turn(current.key);
    else if (key === "Enter") onPart(current.part);
    else return;
    event.preventDefault();
  };
  const leave = () => {
    const written = new Blob([drawing(view.sheet.part, laid)], { type: "image/svg+xml" });
    const link = document.createElement("a");
    link.href = URL.createObjectURL(written);
    link.download = `${view.sheet.part.replace(/[^\w.-]/g, "_")}-tree.svg`;
    link.click();
    window.setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="noprint flex items-center gap-2 pb-2">
        <span className="text-ink-2" aria-live="polite">
          {laid.nodes.length} boxes{whole ? "" : ", and no more: close some branches to see others"}
        </span>
        <span className="ml-auto flex gap-1.5">
          <Button className="!min-h-[26px] !px-2" onClick={leave}>
            As a picture (SVG)
          </Button>
        </span>
      </div>
      <div
        ref={box}
        role="tree"
        tabIndex={0}
        aria-label={`What ${view.sheet.part} is made of`}
        aria-activedescendant={`box-${current.key}`}
        onKeyDown={press}
        className="min-h-0 flex-1 overflow-auto border-t border-ink bg-paper"
      >
        <svg width={laid.width} height={laid.height} role="presentation">
          {seen.map((n) => {
            const from = n.parent === null ? null : places.get(n.parent);
            return from ? <path key={`way ${n.key}`} d={way(from, n)} fill="none" stroke="var(--hair-2)" /> : null;
          })}
          {seen.map((n) => (
            <g
              key={n.key}
              id={`box-${n.key}`}
              role="treeitem"
              tabIndex={-1}
              aria-level={n.key.split("/").length}
              aria-selected={n.key === current.key}
              aria-expanded={n.below > 0 ? n.children.length > 0 : undefined}
              transform={`translate(${n.left} ${n.top})`}
              className="cursor-pointer"
              onClick={() => {
                setAt(n.key);
                if (n.below > 0) turn(n.key);
              }}
              onDoubleClick={() => onPart(n.part)}
            >
              <rect
                width={BOX}
                height={HIGH - 6}
                fill={n.key === current.key ? "var(--blue-tint)" : "var(--paper)"}
                stroke={n.part.kind === "bought" ? "var(--hair-2)" : "var(--ink-2)"}
                strokeDasharray={n.part.kind === "phantom" ? "3 3" : undefined}
              />
              <text x={8} y={14} fontSize={12} fontFamily="var(--font-mono)" fill="var(--ink)">
                {short(n.part.number, 16)}
              </text>
              <text x={BOX - 8} y={14} fontSize={11.5} textAnchor="end" fill="var(--ink-2)">
                {amount(n)}
              </text>
              <text x={8} y={28} fontSize={11} fill="var(--ink-2)">
                {short(n.part.description, 24)}
              </text>
              <text x={BOX - 8} y={28} fontSize={11} textAnchor="end" fill="var(--brass)">
                {n.line ? money(n.line.cost) : money(n.part.cost)}
              </text>
              {n.below > 0 && n.children.length === 0 && (
                <text x={BOX + 8} y={21} fontSize={11.5} fill="var(--blue)">
                  + {n.below}
                </text>
              )}
            </g>
          ))}
        </svg>
      </div>
    </div>
  );
}

interface Placed extends Node {
  left: number;
  top: number;
  parent: string | null;
}

const short = (text: string, most: number) => (text.length > most ? `${text.slice(0, most - 1)}…` : text);
const amount = (n: Node) =>
  n.line
    ? `${quantity(n.line.net, 4)} ${n.part.unit}${n.line.customer_supplied ? ", supplied" : ""}`
    : `1 ${n.part.unit}`;

function way(from: { left: number; top: number }, to: { left: number; top: number }): string {
  const [x1, y1, x2, y2] = [from.left + BOX, from.top + 17, to.left, to.top + 17];
  return `M${x1} ${y1}H${(x1 + x2) / 2}V${y2}H${x2}`;
}

/** The picture for other programs: no styles of ours, no fonts but common ones. */
function drawing(title: string, laid: { nodes: Placed[]; width: number; height: number }): string {
  const safe = (text: string) => text.replace(/[<>&"]/g, (c) => `&#${c.charCodeAt(0)};`);
  const places = new Map(laid.nodes.map((n) => [n.key, n]));
  const parts = laid.nodes.flatMap((n) => {
    const from = n.parent === null ? undefined : places.get(n.parent);
    return [
      from ? `<path d="${way(from, n)}" fill="none" stroke="#999"/>` : "",
      `<g transform="translate(${n.left} ${n.top})"><rect width="${BOX}" height="${HIGH - 6}" fill="#fff" stroke="#555"/>`,
      `<text x="8" y="14" font-family="monospace" font-size="12">${safe(short(n.part.number, 16))}</text>`,
      `<text x="${BOX - 8}" y="14" text-anchor="end">${safe(amount(n))}</text>`,
      `<text x="8" y="28" fill="#444">${safe(short(n.part.description, 24))}</text>`,
      `<text x="${BOX - 8}" y="28" text-anchor="end" fill="#444">${safe(money(n.line ? n.line.cost : n.part.cost))}</text></g>`,
    ];
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${laid.width}" height="${laid.height}" font-family="sans-serif" font-size="11"><title>${safe(title)}</title>${parts.join("\n")}</svg>\n`;
}
