import { type KeyboardEvent, type PointerEvent, type Ref, useMemo, useRef, useState } from "react";
import { Button } from "../../kit/Button";
import { minutes } from "../../lib/number";
import { followed, predecessors } from "../../model/operations";
import type { OperationRow } from "../../model/wire";

const WIDTH = 308;
const STEP = 74;
const TALL = 42;

/** Depth of every operation: behind all it follows. A loop is never kept, so this ends. */
function layers(operations: OperationRow[]): OperationRow[][] {
  const depth = new Map<string, number>();
  const of = (operation: OperationRow, seen: string[]): number => {
    const known = depth.get(operation.id);
    if (known !== undefined || seen.includes(operation.id)) return known ?? 0;
    const before = predecessors(operations, operation).map((o) => of(o, [...seen, operation.id]) + 1);
    depth.set(operation.id, Math.max(0, ...before));
    return depth.get(operation.id)!;
  };
  const found: OperationRow[][] = [];
  for (const operation of operations) {
    const at = of(operation, []);
    found[at] = [...(found[at] ?? []), operation];
  }
  return found;
}

/** The operations of the sheet as a network, from the first at the top; in step with the list. */
export function OrderOfWork({
  operations,
  current,
  editable,
  panel,
  onSelect,
  onFollow,
  onClose,
}: {
  operations: OperationRow[];
  /** The operation under the cursor. */
  current: string | null;
  editable: boolean;
  panel: Ref<HTMLElement>;
  onSelect: (operation: OperationRow) => void;
  /** What an operation names as followed from now on. */
  onFollow: (operation: OperationRow, after: number[]) => void;
  onClose: () => void;
}) {
  // The operation that another is to follow: picked up by key or pulled from with the mouse.
  const [from, setFrom] = useState<string | null>(null);
  const [pulled, setPulled] = useState<[number, number] | null>(null);
  const svg = useRef<SVGSVGElement>(null);
  const rows = useMemo(() => layers(operations), [operations]);
  const place = useMemo(
    () =>
      new Map(
        rows.flatMap((row, depth) =>
          row.map((operation, i) => {
            const wide = WIDTH / row.length;
            return [operation.id, { x: wide * i + 4, y: depth * STEP + 4, wide: wide - 8 }] as const;
          }),
        ),
      ),
    [rows],
  );
  const byKey = new Map(operations.map((o) => [o.id, o]));
  const edges = operations.flatMap((o) => predecessors(operations, o).map((before) => [before, o] as const));
  const picked = from ? byKey.get(from) : undefined;

  /** The second follows the first from now on, or no longer. */
  const join = (before: OperationRow, after: OperationRow) => {
    setFrom(null);
    setPulled(null);
    if (before.id === after.id) return;
    const now = predecessors(operations, after).map((o) => o.sequence);
    const next = now.includes(before.sequence) ? now.filter((s) => s !== before.sequence) : [...now, before.sequence];
    onFollow(after, followed(operations, after, next));
  };
  const key = (event: KeyboardEvent, operation: OperationRow) => {
    const flat = rows.flat();
    const step = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key];
    if (step) {
      event.preventDefault();
      const next = flat[flat.findIndex((o) => o.id === operation.id) + step];
      if (next) svg.current?.querySelector<SVGGElement>(`[data-operation="${next.id}"]`)?.focus();
    } else if (event.key === "Enter" && editable) {
      event.preventDefault();
      picked ? join(picked, operation) : setFrom(operation.id);
    } else if (event.key === "Escape") {
      event.preventDefault();
      event.stopPropagation();
      from ? setFrom(null) : onClose();
    }
  };
  const pull = (event: PointerEvent) => {
    if (!from || !svg.current) return;
    const box = svg.current.getBoundingClientRect();
    setPulled([event.clientX - box.left, event.clientY - box.top]);
  };
  const release = (event: PointerEvent) => {
    if (!pulled || !picked) return;
    const under = document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-operation]");
    const target = byKey.get(under?.getAttribute("data-operation") ?? "");
    target ? join(picked, target) : setFrom(null);
    setPulled(null);
  };
  const height = Math.max(1, rows.length) * STEP;
  return (
    <section ref={panel} tabIndex={-1} aria-label="Order of work" className="flex flex-col gap-2">
      <div className="flex items-baseline justify-between">
        <h2 className="text-[12px] font-semibold text-blue">Order of work</h2>
        <Button look="quiet" className="!min-h-0" onClick={onClose}>
          close
        </Button>
      </div>
      {editable && operations.length > 1 && (
        <p aria-live="polite" className="min-h-[34px] text-[12px] text-ink-2">
          {picked
            ? `Choose what follows operation ${picked.sequence}, or what no longer does. Escape leaves it.`
            : "Pull from one operation to another that follows it; by key: Enter on the one, Enter on the other."}
        </p>
      )}
      {operations.length === 0 ? (
        <p className="text-ink-3">No operations yet.</p>
      ) : (
        <svg
          ref={svg}
          width={WIDTH}
          height={height}
          className="touch-none select-none"
          role="group"
          aria-label={`${operations.length} operations`}
          onPointerMove={pull}
          onPointerUp={release}
        >
          <defs>
            <marker id="follows" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="7" markerHeight="7" orient="auto">
              <path d="M0 1L7 4L0 7" fill="none" stroke="var(--ink-2)" />
            </marker>
          </defs>
          {edges.map(([before, after]) => {
            const a = place.get(before.id)!;
            const b = place.get(after.id)!;
            const [x1, y1, x2, y2] = [a.x + a.wide / 2, a.y + TALL, b.x + b.wide / 2, b.y];
            return (
              <path
                key={`${before.id}${after.id}`}
                d={`M${x1} ${y1}C${x1} ${y1 + 18} ${x2} ${y2 - 18} ${x2} ${y2 - 1}`}
                fill="none"
                stroke="var(--ink-2)"
                strokeDasharray={before.transfer_quantity === null ? undefined : "4 2"}
                markerEnd="url(#follows)"
              />
            );
          })}
          {operations.map((operation) => {
            const at = place.get(operation.id)!;
            const here = operation.id === current;
            const before = predecessors(operations, operation);
            const said = `${operation.subcontract ? "outside" : operation.work_center} · ${minutes(operation.lot_elapsed)}`;
            return (
              <g
                key={operation.id}
                data-operation={operation.id}
                role="button"
                tabIndex={here || (!current && operation === operations[0]) ? 0 : -1}
                aria-pressed={from === operation.id}
                className="cursor-pointer outline-none [&:focus-visible>rect]:stroke-[2.5px]"
                transform={`translate(${at.x} ${at.y})`}
                onKeyDown={(event) => key(event, operation)}
                onFocus={() => onSelect(operation)}
                onPointerDown={() => editable && setFrom(operation.id)}
                onPointerUp={() => !pulled && setFrom(null)}
              >
                <rect
                  width={at.wide}
                  height={TALL}
                  fill={here ? "var(--blue-tint)" : "var(--paper)"}
                  stroke={from === operation.id || here ? "var(--blue)" : "var(--hair-2)"}
                  strokeDasharray={operation.subcontract ? "4 2" : undefined}
                />
                <foreignObject width={at.wide} height={TALL} className="pointer-events-none">
                  <div className="px-1.5 pt-0.5 text-[12px] leading-[18px]">
                    <div className="truncate">
                      <b className="pn">{operation.sequence}</b> {operation.name}
                    </div>
                    <div className="truncate text-ink-3">
                      {said}
                      <span className="sr-only">
                        , {before.length ? `follows ${before.map((o) => o.sequence).join(" and ")}` : "begins"}
                      </span>
                    </div>
                  </div>
                </foreignObject>
              </g>
            );
          })}
          {pulled && picked && (
            <line
              x1={place.get(picked.id)!.x + place.get(picked.id)!.wide / 2}
              y1={place.get(picked.id)!.y + TALL}
              x2={pulled[0]}
              y2={pulled[1]}
              stroke="var(--blue)"
              strokeWidth={2}
              className="pointer-events-none"
            />
          )}
        </svg>
      )}
      {operations.some((o) => o.transfer_quantity !== null) && (
        <p className="text-[12px] text-ink-3">A broken line: passed on in transfer quantities.</p>
      )}
    </section>
  );
}
