import { useVirtualizer } from "@tanstack/react-virtual";
import {
  type ClipboardEvent,
  type KeyboardEvent,
  type Ref,
  useCallback,
  useEffect,
  useImperativeHandle,
  useMemo,
  useRef,
  useState,
} from "react";
import type { Leave } from "../../kit/CellEditor";
import type { WorkCenterOut } from "../../lib/api";
import type { LineValues } from "../../model/change";
import type { LineRowOnScreen, Row } from "../../model/rows";
import type { SheetView } from "../../model/wire";
import type { FindingOut } from "../../pieces/findings/useFindings";
import { BAND_CELLS } from "./bandCells";
import { cellsOf, lineEditOf, nearest, partEditOf } from "./cells";
import type { Column, Units } from "./column";
import type { Cursor, Editing, GridHandle } from "./cursor";
import { GridRow, type Hands } from "./GridRow";
import { wholeOfShares } from "./ShareBar";
import { useDragged } from "./useDragged";

/**
 * The sheet as a grid of keys: arrows move, Enter edits, typing replaces. Only the rows on screen exist.
 * What the keys mean for the sheet (add, remove, move, undo) is up to `onKey`.
 */
export function SheetGrid({
  rows,
  columns,
  costs,
  view,
  total,
  cursor,
  editing,
  editable,
  centers,
  units,
  findings,
  chosen,
  onExtend,
  onCopy,
  onPaste,
  onDropLine,
  onCursor,
  onEdit,
  onKeep,
  onToggle,
  onKey,
  ref,
}: {
  rows: Row[];
  columns: Column[];
  /** Whether what operations cost stands on them. */
  costs: boolean;
  view: SheetView;
  total: number;
  cursor: Cursor;
  editing: Editing | null;
  editable: boolean;
  centers: WorkCenterOut[];
  units: Units;
  findings: FindingOut[];
  /** Keys of the lines that are chosen together; empty when only the cursor counts. */
  chosen: Set<string>;
  /** Choose from the cursor to this row. */
  onExtend: (row: string) => void;
  onCopy: (event: ClipboardEvent) => void;
  onPaste: (event: ClipboardEvent) => void;
  /** A line was dragged onto a row. */
  onDropLine: (line: LineRowOnScreen, at: Row) => void;
  onCursor: (cursor: Cursor) => void;
  onEdit: (editing: Editing | null) => void;
  /** `make`: for a part number, the kind of the part should there be none. */
  onKeep: (row: Row, column: string, text: string, make?: LineValues["make"]) => void;
  onToggle: (row: LineRowOnScreen) => void;
  onKey: (event: KeyboardEvent, row: Row | undefined) => boolean;
  ref: Ref<GridHandle>;
}) {
  const box = useRef<HTMLDivElement>(null);
  const index = Math.max(
    0,
    rows.findIndex((row) => row.key === cursor.row),
  );
  const row = rows[index];
  const column = row ? nearest(row, cursor.column, columns) : cursor.column;
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    // The same while the rows are, or each of thousands would be measured anew at every turn of the wheel.
    estimateSize: useCallback((i: number) => (rows[i]?.kind === "band" ? 34 : 32), [rows]),
    getItemKey: useCallback((i: number) => rows[i]?.key ?? i, [rows]),
    overscan: 4,
    // What is said stands at the foot of the screen, and never over the row that is typed into.
    paddingEnd: 56,
    // The headings stand within what scrolls, too.
    scrollPaddingEnd: 28 + 56,
  });
  const items = virtual.getVirtualItems();
  // As many as ever stood there at once: were it those of now, one row more would give every row the place of another.
  const places = useRef(0);
  places.current = Math.max(places.current, items.length);
  useImperativeHandle(ref, () => ({ focus: () => box.current?.focus() }));
  useEffect(() => {
    virtual.scrollToIndex(index);
  }, [index, virtual]);
  useEffect(() => {
    if (!editing) box.current?.focus({ preventScroll: true });
  }, [editing]);

  const canEdit = (at: Row, key: string): boolean => {
    if (!editable || !at.own) return false;
    if (at.kind === "band") {
      const edit = BAND_CELLS.find((cell) => cell.key === key)?.edit;
      return !!edit && (at.operation.beside === null || !edit.alone);
    }
    if (at.kind !== "line") return true;
    const found = columns.find((c) => c.key === key);
    return !!(partEditOf(found, at) ?? lineEditOf(found, at));
  };
  const move = (steps: number) => {
    const next = rows[Math.max(0, Math.min(rows.length - 1, index + steps))];
    if (next) onCursor({ row: next.key, column: nearest(next, column, columns) });
  };
  const sideways = (step: number, onlyEditable = false) => {
    if (!row) return;
    const cells = cellsOf(row, columns);
    let at = cells.indexOf(column) + step;
    while (onlyEditable && cells[at] && !canEdit(row, cells[at]!)) at += step;
    const found = cells[at];
    if (found) onCursor({ row: row.key, column: found });
    else if (onlyEditable) {
      const next = rows[index + step];
      if (!next) return;
      const all = cellsOf(next, columns).filter((key) => canEdit(next, key));
      onCursor({ row: next.key, column: (step > 0 ? all[0] : all.at(-1)) ?? column });
    }
  };
  const press = (event: KeyboardEvent) => {
    if (editing || onKey(event, row)) return;
    const plain = !event.ctrlKey && !event.altKey && !event.metaKey;
    const steps: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 16, PageUp: -16 };
    if (plain && event.key in steps) move(steps[event.key]!);
    else if (plain && event.key === "ArrowRight") sideways(1);
    else if (plain && event.key === "ArrowLeft") sideways(-1);
    else if (event.key === "Home" && row)
      event.ctrlKey ? move(-rows.length) : onCursor({ row: row.key, column: cellsOf(row, columns)[0]! });
    else if (event.key === "End" && row)
      event.ctrlKey ? move(rows.length) : onCursor({ row: row.key, column: cellsOf(row, columns).at(-1)! });
    else if (plain && event.key === " ") {
      // Where nothing opens it does nothing: the browser would scroll by a page, away from the cursor.
      if (row?.kind === "line" && row.opens) onToggle(row);
    } else if ((event.key === "Enter" || event.key === "F2") && plain && row && canEdit(row, column))
      onEdit({ text: null });
    else if (plain && event.key.length === 1 && event.key !== "?" && row && canEdit(row, column))
      onEdit({ text: event.key });
    else return;
    event.preventDefault();
  };
  const keep = (at: Row, key: string, text: string, leave: Leave, make?: LineValues["make"]) => {
    onEdit(null);
    const fresh = at.kind !== "line" && at.kind !== "band";
    if (leave.then === "down" && !fresh) move(1);
    if (leave.then === "next" && !fresh) sideways(1, true);
    if (leave.then === "back") sideways(-1, true);
    onKeep(at, key, text, make);
  };
  const marked = useMemo(() => {
    const found = new Map<string, FindingOut>();
    for (const f of findings) {
      if (!f.line || f.waived) continue;
      const held = found.get(f.line);
      if (!held || f.severity === "stops") found.set(f.line, f);
    }
    return found;
  }, [findings]);
  const { over, dropOn, grip } = useDragged(onDropLine);
  const template = useMemo(() => columns.map((c) => c.width).join(" "), [columns]);
  const cancel = () => onEdit(null);
  const pressed = (at: Row, key: string, shift: boolean) => {
    box.current?.focus({ preventScroll: true });
    if (shift) onExtend(at.key);
    else onCursor({ row: at.key, column: key });
  };
  const now = useRef<Hands>(null!);
  now.current = { canEdit, press: pressed, edit: (text) => onEdit({ text }), cancel, keep, toggle: onToggle };
  const [hands] = useState<Hands>(() => ({
    canEdit: (...of) => now.current.canEdit(...of),
    press: (...of) => now.current.press(...of),
    edit: (...of) => now.current.edit(...of),
    cancel: () => now.current.cancel(),
    keep: (...of) => now.current.keep(...of),
    toggle: (...of) => now.current.toggle(...of),
  }));

  return (
    <div className="flex min-h-0 flex-1 flex-col overflow-hidden border-t border-ink bg-paper">
      <div
        ref={box}
        role="treegrid"
        tabIndex={0}
        style={wholeOfShares(total)}
        aria-label={`Build sheet of ${view.sheet.part}`}
        aria-rowcount={rows.length + 1}
        aria-activedescendant={row ? `cell-${row.key}-${column}` : undefined}
        className="min-h-0 flex-1 overflow-y-auto outline-none"
        onKeyDown={press}
        onCopy={onCopy}
        onPaste={onPaste}
      >
        <div
          role="row"
          aria-rowindex={1}
          className="sticky top-0 z-20 grid h-7 items-center border-b border-hair-2 bg-paper pr-1.5 text-[12px] text-ink-2"
          style={{ gridTemplateColumns: template }}
        >
          {columns.map((c) => (
            <span key={c.key} role="columnheader" className={`truncate px-1 ${c.right ? "text-right" : ""}`}>
              {c.label || <span className="sr-only">{c.key}</span>}
            </span>
          ))}
        </div>
        <div role="presentation" className="relative" style={{ height: virtual.getTotalSize() }}>
          {items.map((item) => {
            const at = rows[item.index]!;
            return (
              <GridRow
                // What leaves at one end is filled anew and comes in at the other; the row of the cursor, which may be typed into, stays itself.
                key={at === row ? at.key : item.index % places.current}
                {...{ at, columns, template, costs, editable, centers, units, dropOn, grip, hands }}
                index={item.index}
                start={item.start}
                here={at === row ? column : null}
                editing={at === row ? editing : null}
                together={at === row || chosen.has(at.key)}
                finding={at.kind === "line" ? marked.get(at.line.id) : undefined}
                over={over === at.key}
              />
            );
          })}
        </div>
      </div>
    </div>
  );
}
