import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, memo, type ReactNode, useCallback, useEffect, useRef } from "react";

const TALL = 32;

interface RowOf {
  id: number;
}

/** One row; drawn anew only when it is another, moves, or the cursor comes or goes. */
const Row = memo(function Row<R extends RowOf>({
  row,
  here,
  index,
  start,
  columns,
  look,
  draw,
  onCursor,
}: {
  row: R;
  here: boolean;
  index: number;
  start: number;
  columns: string;
  look: string;
  draw: (row: R) => ReactNode;
  onCursor: (id: number) => void;
}) {
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the grid takes the keys
    <div
      id={`line-${row.id}`}
      role="row"
      aria-rowindex={index + 2}
      aria-selected={here}
      onClick={() => onCursor(row.id)}
      className={`${columns} absolute inset-x-0 cursor-default border-b border-hair ${here ? "bg-blue-tint outline outline-1 -outline-offset-1 outline-blue" : ""} ${look}`}
      style={{ height: TALL, transform: `translateY(${start}px)` }}
    >
      {draw(row)}
    </div>
  );
}) as <R extends RowOf>(props: {
  row: R;
  here: boolean;
  index: number;
  start: number;
  columns: string;
  look: string;
  draw: (row: R) => ReactNode;
  onCursor: (id: number) => void;
}) => ReactNode;

/** Rows to work through: any number of them, a cursor that the keys move, and cells as the screen draws them. */
export function RowGrid<R extends RowOf>({
  label,
  columns,
  head,
  rows,
  total,
  cursor,
  look = () => "",
  draw,
  onCursor,
}: {
  label: string;
  /** The classes that lay out a row. */
  columns: string;
  /** The cells of the head. */
  head: ReactNode;
  rows: R[];
  /** How many there are with those that are filtered out. */
  total: number;
  cursor: number | null;
  /** Classes of a row. */
  look?: (row: R) => string;
  /** The cells of a row; the same function as long as it draws the same. */
  draw: (row: R) => ReactNode;
  onCursor: (id: number) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => TALL,
    overscan: 12,
  });
  // The same function at every draw, or every row would be drawn anew.
  const latest = useRef(onCursor);
  latest.current = onCursor;
  const choose = useCallback((id: number) => latest.current(id), []);
  const at = rows.findIndex((row) => row.id === cursor);
  const toIndex = virtual.scrollToIndex;
  useEffect(() => {
    if (at >= 0) toIndex(at, { align: "auto" });
  }, [at, toIndex]);
  useEffect(() => {
    // Whoever comes here to decide begins at once.
    if (document.activeElement === document.body) box.current?.focus();
  }, []);
  const move = (event: KeyboardEvent) => {
    const page = Math.max(1, Math.floor((box.current?.clientHeight ?? 300) / TALL) - 2);
    const steps: Record<string, number> = {
      ArrowDown: 1,
      ArrowUp: -1,
      PageDown: page,
      PageUp: -page,
      Home: -rows.length,
      End: rows.length,
    };
    const step = steps[event.key];
    if (step === undefined || event.altKey || event.ctrlKey) return;
    event.preventDefault();
    const next = rows[Math.min(rows.length - 1, Math.max(0, Math.max(0, at) + step))];
    if (next) onCursor(next.id);
  };
  return (
    <div
      ref={box}
      role="grid"
      aria-label={label}
      aria-rowcount={total + 1}
      aria-activedescendant={cursor === null ? undefined : `line-${cursor}`}
      tabIndex={0}
      onKeyDown={move}
      className="min-h-0 flex-1 overflow-y-auto border-t border-ink bg-paper outline-offset-[-2px]"
    >
      <div
        role="row"
        className={`${columns} sticky top-0 z-10 h-7 border-b border-hair-2 bg-paper text-[12px] text-ink-2`}
      >
        {head}
      </div>
      <div role="rowgroup" className="relative" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map((item) => {
          const row = rows[item.index];
          if (!row) return null;
          return (
            <Row
              key={row.id}
              row={row}
              here={row.id === cursor}
              index={item.index}
              start={item.start}
              columns={columns}
              look={look(row)}
              draw={draw}
              onCursor={choose}
            />
          );
        })}
      </div>
    </div>
  );
}
