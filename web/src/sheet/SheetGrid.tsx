import { useVirtualizer } from "@tanstack/react-virtual";
import {
  type ClipboardEvent,
  type DragEvent,
  type HTMLAttributes,
  type KeyboardEvent,
  type ReactNode,
  type Ref,
  useEffect,
  useImperativeHandle,
  useMemo,
  useRef,
  useState,
} from "react";
import { SeverityMark } from "../findings/SeverityMark";
import type { FindingOut } from "../findings/useFindings";
import { CellEditor, type Leave } from "../kit/CellEditor";
import { KindMark } from "../kit/KindMark";
import { PartEditor } from "../kit/PartEditor";
import type { SheetView, WorkCenterOut } from "../lib/api";
import { LINE_KINDS } from "../lib/declared";
import { money, quantity } from "../lib/number";
import { CenterEditor } from "./CenterEditor";
import { BAND_CELLS, type Column, cellsOf, lossOtherwise, lossText, nearest, optionText, usageText } from "./columns";
import type { BandRow, LineRowOnScreen, NewRow, Row } from "./model";
import { ShareBar } from "./ShareBar";

export interface Cursor {
  row: string;
  column: string;
}

/** A cell being edited: what it starts from, and why it was refused before. */
export interface Editing {
  text: string | null;
  error?: string;
}

export interface GridHandle {
  focus: () => void;
}

const BAND_WIDTHS: Record<string, string> = {
  cost: "62px 76px",
  engineering: "0px 0px",
  buying: "0px 0px",
  shop: "0px 0px",
};

/**
 * The sheet as a grid of keys: arrows move, Enter edits, typing replaces. Only the rows on screen exist.
 * What the keys mean for the sheet (add, remove, move, undo) is up to `onKey`.
 */
export function SheetGrid({
  rows,
  columns,
  columnSet,
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
  columnSet: string;
  view: SheetView;
  total: number;
  cursor: Cursor;
  editing: Editing | null;
  editable: boolean;
  centers: WorkCenterOut[];
  units: { symbol: string; measures: string }[];
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
  onKeep: (row: Row, column: string, text: string, make?: string) => void;
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
    estimateSize: (i) => (rows[i]?.kind === "band" ? 34 : 32),
    getItemKey: (i) => rows[i]?.key ?? i,
    overscan: 10,
    // The headings stand within what scrolls.
    scrollPaddingEnd: 28,
  });
  useImperativeHandle(ref, () => ({ focus: () => box.current?.focus() }));
  useEffect(() => {
    virtual.scrollToIndex(index);
  }, [index, virtual]);
  useEffect(() => {
    if (!editing) box.current?.focus({ preventScroll: true });
  }, [editing]);

  const canEdit = (at: Row, key: string): boolean => {
    if (!editable || !at.own) return false;
    if (at.kind === "band") return !!BAND_CELLS.find((cell) => cell.key === key)?.edit;
    if (at.kind !== "line") return true;
    if (at.line.kind === "text") return key === "description" || key === "item";
    return !!columns.find((c) => c.key === key)?.edit;
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
    else if (plain && event.key === " " && row?.kind === "line" && row.opens) onToggle(row);
    else if ((event.key === "Enter" || event.key === "F2") && plain && row && canEdit(row, column))
      onEdit({ text: null });
    else if (plain && event.key.length === 1 && event.key !== " " && event.key !== "?" && row && canEdit(row, column))
      onEdit({ text: event.key });
    else return;
    event.preventDefault();
  };
  const keep = (at: Row, key: string, text: string, leave: Leave, make?: string) => {
    onEdit(null);
    if (leave.then === "down" && at.kind !== "new-line" && at.kind !== "new-operation") move(1);
    if (leave.then === "next" && at.kind !== "new-line" && at.kind !== "new-operation") sideways(1, true);
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
  const [dragged, setDragged] = useState<LineRowOnScreen | null>(null);
  const [over, setOver] = useState<string | null>(null);
  /** What makes a row of the sheet itself take a dragged line. */
  const dropOn = (at: Row) =>
    dragged && at.own && (at.kind === "line" || at.kind === "band")
      ? {
          onDragOver: (event: DragEvent) => {
            event.preventDefault();
            if (over !== at.key) setOver(at.key);
          },
          onDrop: (event: DragEvent) => {
            event.preventDefault();
            onDropLine(dragged, at);
            setDragged(null);
            setOver(null);
          },
        }
      : {};
  const template = columns.map((c) => c.width).join(" ");

  const cell = (at: Row, key: string, right: boolean, content: ReactNode, editor?: () => ReactNode) => {
    const here = at === row && key === column;
    return (
      <div
        key={key}
        id={`cell-${at.key}-${key}`}
        role="gridcell"
        tabIndex={-1}
        aria-readonly={!canEdit(at, key)}
        className={`relative flex h-full min-w-0 items-center px-1 ${right ? "justify-end text-right" : ""} ${
          here ? "outline-2 outline-offset-[-2px] outline-blue bg-paper" : ""
        }`}
        onMouseDown={(event) => {
          if (here && editing) return;
          // Dragging starts from what the browser does by itself.
          if (!(event.target as HTMLElement).draggable) event.preventDefault();
          box.current?.focus({ preventScroll: true });
          if (event.shiftKey) onExtend(at.key);
          else onCursor({ row: at.key, column: key });
        }}
        onDoubleClick={() => canEdit(at, key) && onEdit({ text: null })}
      >
        {here && editing && editor ? editor() : content}
      </div>
    );
  };

  /** The cells of an empty row: a part or a note; the name of an operation, and then its work center. */
  const newCells = (at: NewRow) => {
    const start = editing?.text ?? "";
    const shared = { start, fresh: true, error: editing?.error, onCancel: () => onEdit(null) };
    const kept = (key: string) => (text: string, leave: Leave) =>
      text.trim() ? keep(at, key, text, leave) : onEdit(null);
    if (at.kind === "new-line")
      return [
        cell(at, "part", false, "+ part number of a new line", () => (
          <PartEditor {...shared} onKeep={(text, make, leave) => keep(at, "part", text, leave, make)} />
        )),
        cell(at, "description", false, "+ or a note", () => (
          <CellEditor {...shared} label="Text of the new note" onKeep={kept("description")} />
        )),
      ];
    const name = at.name ?? "+ name of a new operation";
    return [
      cell(at, "name", false, at.name ? <b className="font-semibold text-ink">{name}</b> : name, () => (
        <CellEditor
          {...shared}
          start={editing?.text ?? at.name ?? ""}
          label="Name of the new operation"
          onKeep={kept("name")}
        />
      )),
      at.name !== null &&
        cell(at, "center", false, <span className="text-brass">choose its work center</span>, () => (
          <CenterEditor {...shared} centers={centers} onKeep={(code, leave) => keep(at, "center", code, leave)} />
        )),
    ];
  };

  return (
    <div className="flex min-h-0 flex-1 flex-col overflow-hidden border-t border-ink bg-paper">
      <div
        ref={box}
        role="treegrid"
        tabIndex={0}
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
          {virtual.getVirtualItems().map((item) => {
            const at = rows[item.index]!;
            const place = { transform: `translateY(${item.start}px)`, zIndex: at === row && editing ? 10 : undefined };
            const common = { role: "row", "aria-rowindex": item.index + 2, "aria-level": at.level + 1 } as const;
            if (at.kind === "band")
              return (
                <Band
                  key={at.key}
                  row={at}
                  common={common}
                  style={place}
                  dropOn={dropOn(at)}
                  over={over === at.key}
                  widths={BAND_WIDTHS[columnSet]!}
                  total={total}
                  cell={cell}
                  editing={editing}
                  centers={centers}
                  onKeep={keep}
                  onCancel={() => onEdit(null)}
                />
              );
            if (at.kind !== "line")
              return (
                <div
                  key={at.key}
                  {...common}
                  className="absolute inset-x-0 grid h-8 grid-cols-[320px_320px] items-center border-b border-hair pl-[46px] text-ink-3"
                  style={place}
                >
                  {newCells(at)}
                </div>
              );
            return (
              <div
                key={at.key}
                {...common}
                aria-expanded={at.opens ? at.open : undefined}
                aria-selected={at === row || chosen.has(at.key)}
                {...dropOn(at)}
                className={`absolute inset-x-0 grid h-8 items-center border-b border-hair pr-1.5 ${at === row || chosen.has(at.key) ? "bg-blue-tint" : ""} ${over === at.key ? "border-t-2 border-t-blue" : ""} ${
                  at.line.net === null || at.line.net === undefined ? "text-ink-3" : ""
                }`}
                style={{ ...place, gridTemplateColumns: template }}
              >
                {columns.map((c) =>
                  cell(
                    at,
                    c.key,
                    !!c.right,
                    <LineCell
                      row={at}
                      column={c.key}
                      total={total}
                      finding={marked.get(at.line.id)}
                      grip={
                        editable && at.own
                          ? {
                              draggable: true,
                              onDragStart: (event: DragEvent) => {
                                event.dataTransfer.effectAllowed = "move";
                                setDragged(at);
                              },
                              onDragEnd: () => {
                                setDragged(null);
                                setOver(null);
                              },
                            }
                          : undefined
                      }
                      onToggle={() => onToggle(at)}
                    />,
                    () => {
                      const start = editing?.text ?? (c.key === "description" ? at.line.text : (c.text?.(at) ?? ""));
                      const shared = {
                        start,
                        fresh: editing?.text !== null && !editing?.error,
                        error: editing?.error,
                        onCancel: () => onEdit(null),
                      };
                      const done = (text: string, leave: Leave) => keep(at, c.key, text, leave);
                      if (c.edit === "part")
                        return (
                          <PartEditor {...shared} onKeep={(text, make, leave) => keep(at, c.key, text, leave, make)} />
                        );
                      const choices = choicesOf(c, at, units);
                      return (
                        <CellEditor
                          {...shared}
                          start={choices ? (c.text?.(at) ?? "") : start}
                          label={c.label || c.key}
                          right={c.right}
                          choices={choices}
                          onKeep={done}
                        />
                      );
                    },
                  ),
                )}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

function choicesOf(
  column: Column,
  row: LineRowOnScreen,
  units: { symbol: string; measures: string }[],
): [string, string][] | undefined {
  if (column.edit === "per")
    return [
      ["per_unit", "per unit"],
      ["per_lot", "per lot"],
    ];
  if (column.edit === "use")
    return [
      ["", "counted"],
      ["customer", "customer-supplied"],
      ["not_fitted", "not fitted"],
    ];
  if (column.edit === "unit") {
    const measures = units.find((u) => u.symbol === row.part?.unit)?.measures;
    return units.filter((u) => !measures || u.measures === measures).map((u) => [u.symbol, u.symbol]);
  }
  return undefined;
}

function LineCell({
  row,
  column,
  total,
  finding,
  grip,
  onToggle,
}: {
  row: LineRowOnScreen;
  column: string;
  total: number;
  finding: FindingOut | undefined;
  /** By its item number a line is dragged. */
  grip?: HTMLAttributes<HTMLSpanElement>;
  onToggle: () => void;
}) {
  const { line, part } = row;
  const counts = line.net !== null && line.net !== undefined;
  switch (column) {
    case "item":
      return (
        <>
          {finding && (
            <span className="absolute left-0.5" title={finding.message}>
              <SeverityMark severity={finding.severity} word={false} />
            </span>
          )}
          <span
            {...grip}
            className={`w-full text-right text-ink-3 ${grip ? "cursor-grab" : ""}`}
            title={grip ? "Drag to move the line" : undefined}
          >
            {line.item ?? "·"}
          </span>
        </>
      );
    case "part":
      return (
        <span className="flex min-w-0 items-center" style={{ paddingLeft: row.level * 16 }}>
          <button
            type="button"
            tabIndex={-1}
            aria-hidden={!row.opens}
            aria-label={row.open ? "Close in place" : "Open in place"}
            className={`w-4 shrink-0 text-ink-3 ${row.opens ? "" : "invisible"}`}
            onMouseDown={(event) => {
              event.preventDefault();
              onToggle();
            }}
          >
            {row.open ? "▾" : "▸"}
          </button>
          <span className="pn truncate">{line.typedPart ?? part?.number ?? ""}</span>
        </span>
      );
    case "description":
      return (
        <span className="flex min-w-0 items-baseline gap-2" style={{ paddingLeft: row.level * 10 }}>
          <span
            className="truncate"
            title={[part?.description, line.reference_designators.join(", ")].filter(Boolean).join(": ")}
          >
            {line.kind === "text" ? <i>{line.text || "a note"}</i> : part?.description}
          </span>
          {line.kept_off.length > 0 && (
            <span className="shrink-0 text-[12px] text-ink-3" title={`not shown on: ${line.kept_off.join(", ")}`}>
              kept off
            </span>
          )}
        </span>
      );
    case "kind":
      return (
        <KindMark
          kind={line.kind === "component" ? (part?.kind ?? "") : LINE_KINDS[line.kind].word}
          note={line.kind === "component" ? usageText(row) || undefined : undefined}
        />
      );
    case "quantity":
      return line.quantity === null ? (
        <span className="text-ink-3">{line.kind === "text" ? "" : "–"}</span>
      ) : (
        quantity(line.quantity, 6)
      );
    case "unit":
      return <span className="text-[12px] text-ink-3">{line.kind === "text" ? "" : line.unit || part?.unit}</span>;
    case "loss":
      return (
        <span className="whitespace-nowrap text-ink-2" title={lossOtherwise(row)}>
          {lossText(row) || (line.kind === "text" ? "" : "–")}
        </span>
      );
    case "fixed":
      return Number(line.fixed_loss) ? (
        `${quantity(line.fixed_loss)}`
      ) : (
        <span className="text-ink-3">{line.kind === "text" ? "" : "–"}</span>
      );
    case "per":
      return (
        <span className="text-ink-2">
          {line.kind === "text" ? "" : line.quantity_basis === "per_lot" ? "per lot" : "per unit"}
        </span>
      );
    case "option":
      return <span className="truncate text-ink-2">{optionText(row)}</span>;
    case "use":
      return <span className="truncate text-ink-2">{usageText(row)}</span>;
    case "supplier":
      return (
        <span
          className="truncate text-ink-2"
          title={part?.supplier_number ? `number ${part.supplier_number}` : undefined}
        >
          {part?.supplier}
        </span>
      );
    case "buying_unit":
      return (
        <span className="truncate text-ink-2">{part?.kind === "bought" ? (part.buying_unit ?? part.unit) : ""}</span>
      );
    case "lead":
      return (
        <span className="text-ink-2">
          {part?.kind === "bought" ? part.lead_time_days : quantity(part?.lead_days, 1)}
        </span>
      );
    case "material":
      return (
        <span className="truncate text-ink-2" title={part?.material}>
          {part?.material}
        </span>
      );
    case "places":
      return (
        <span className="truncate text-[12px] text-ink-2" title={line.reference_designators.join(", ")}>
          {line.reference_designators.join(", ")}
        </span>
      );
    case "needed":
      return counts ? (
        <span>
          {quantity(row.needed, row.needed! >= 100 ? 1 : 3)}{" "}
          <span className="text-[12px] text-ink-3">{part?.unit}</span>
        </span>
      ) : (
        <span className="truncate text-[12px] text-ink-3">
          {line.kind === "text"
            ? ""
            : line.option
              ? line.option_action === "remove"
                ? `less ${line.option}`
                : `with ${line.option}`
              : "–"}
        </span>
      );
    case "unit_cost":
      if (!counts || !part) return "";
      return part.unit_cost === null && !part.given && (part.kind === "bought" || part.kind === "charge") ? (
        <span className="text-brass">missing</span>
      ) : part.given ? (
        <span title={part.given}>
          <small className="mr-1 text-[11px] text-brass">by hand</small>
          {money(part.cost)}
        </span>
      ) : (
        money(part.cost)
      );
    case "cost":
      return <b className="font-semibold">{counts ? money(line.cost! * row.share) : ""}</b>;
    case "share":
      return <ShareBar elements={line.elements} scale={row.share} total={total} />;
    default:
      return null;
  }
}

function Band({
  row,
  common,
  style,
  dropOn,
  over,
  widths,
  total,
  cell,
  editing,
  centers,
  onKeep,
  onCancel,
}: {
  row: BandRow;
  common: { role: "row"; "aria-rowindex": number; "aria-level": number };
  style: React.CSSProperties;
  dropOn: HTMLAttributes<HTMLDivElement>;
  /** A dragged line is above it. */
  over: boolean;
  widths: string;
  total: number;
  cell: (row: Row, key: string, right: boolean, content: ReactNode, editor?: () => ReactNode) => ReactNode;
  editing: Editing | null;
  centers: WorkCenterOut[];
  onKeep: (row: Row, key: string, text: string, leave: Leave) => void;
  onCancel: () => void;
}) {
  const nested = row.level > 0;
  return (
    <div
      {...common}
      {...dropOn}
      className={`absolute inset-x-0 grid h-[34px] items-center border-b pr-1.5 ${over ? "border-b-2 border-b-blue" : ""} ${nested ? "border-hair text-ink-2" : "border-hair-2 bg-sunk"}`}
      style={{
        ...style,
        gridTemplateColumns: `${nested ? 46 + row.level * 16 + 16 : 52}px minmax(120px, 1.3fr) minmax(90px, 1fr) 118px 128px ${widths}`,
      }}
    >
      {!nested && <span className="absolute inset-y-0 left-0 w-1 bg-blue" />}
      {BAND_CELLS.map((b) => {
        const text = b.show(row);
        if (b.key === "work" && widths.startsWith("0")) return <span key={b.key} role="presentation" />;
        const content = {
          sequence: <span className={`pn ${nested ? "" : "font-semibold text-blue"}`}>{text}</span>,
          name: <span className={`truncate ${nested ? "" : "font-semibold"}`}>{text}</span>,
          center: <span className="truncate text-ink-3">{text}</span>,
          setup: row.operation.subcontract ? (
            <span className="truncate text-ink-3">least {money(Number(row.operation.subcontract.minimum_charge))}</span>
          ) : (
            <span>
              <span className="text-ink-3">set-up</span> {text}
            </span>
          ),
          run: row.operation.subcontract ? (
            <span className="truncate text-ink-3">{money(Number(row.operation.subcontract.unit_price))} each</span>
          ) : (
            <span className="truncate">
              <span className="text-ink-3">run</span> {text}
            </span>
          ),
          work: <b className={nested ? "" : "font-semibold"}>{text}</b>,
        }[b.key];
        return cell(
          row,
          b.key,
          b.key === "sequence" || b.key === "setup" || b.key === "run" || b.key === "work",
          content,
          () => {
            const shared = {
              start: editing?.text ?? b.text?.(row) ?? "",
              fresh: editing?.text !== null && !editing?.error,
              error: editing?.error,
              onCancel,
            };
            const kept = (text: string, leave: Leave) => onKeep(row, b.key, text, leave);
            return b.edit === "center" ? (
              <CenterEditor {...shared} centers={centers} onKeep={kept} />
            ) : (
              <CellEditor {...shared} label={b.label} onKeep={kept} />
            );
          },
        );
      })}
      <span className="px-1" role="presentation">
        {!widths.startsWith("0") && <ShareBar elements={row.operation.elements} scale={row.share} total={total} />}
      </span>
    </div>
  );
}
