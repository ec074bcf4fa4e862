import { type HTMLAttributes, memo, type ReactNode } from "react";
import { CellEditor, type Leave } from "../../kit/CellEditor";
import { PartEditor } from "../../kit/PartEditor";
import type { WorkCenterOut } from "../../lib/api";
import type { LineValues } from "../../model/change";
import type { LineRowOnScreen, Row } from "../../model/rows";
import { counts } from "../../model/texts";
import type { FindingOut } from "../../pieces/findings/useFindings";
import { alike } from "./alike";
import { Band } from "./Band";
import { partEditOf } from "./cells";
import type { Column, Units } from "./column";
import type { Editing } from "./cursor";
import { freshCells } from "./FreshCells";

/** What a hand does to a row; the same object for as long as the grid lives, or every row would be drawn anew. */
export interface Hands {
  canEdit: (row: Row, column: string) => boolean;
  /** A cell was pressed; with Shift it is chosen up to. */
  press: (row: Row, column: string, shift: boolean) => void;
  edit: (text: string | null) => void;
  cancel: () => void;
  /** `make`: for a part number, the kind of the part should there be none. */
  keep: (row: Row, column: string, text: string, leave: Leave, make?: LineValues["make"]) => void;
  toggle: (row: LineRowOnScreen) => void;
}

interface GridRowProps {
  at: Row;
  index: number;
  /** How far down it stands. */
  start: number;
  columns: Column[];
  /** The widths of the columns. */
  template: string;
  costs: boolean;
  editable: boolean;
  centers: WorkCenterOut[];
  units: Units;
  /** The column of the cursor, where it is on this row. */
  here: string | null;
  editing: Editing | null;
  /** Under the cursor, or chosen together with others. */
  together: boolean;
  finding: FindingOut | undefined;
  dropOn: (at: Row) => HTMLAttributes<HTMLDivElement>;
  over: boolean;
  grip: (at: LineRowOnScreen) => HTMLAttributes<HTMLSpanElement>;
  hands: Hands;
}

function sameOnScreen(before: GridRowProps, after: GridRowProps): boolean {
  return (Object.keys(after) as (keyof GridRowProps)[]).every((name) =>
    name === "at" ? alike(before.at, after.at) : before[name] === after[name],
  );
}

/**
 * A row of the grid at its place. It is drawn anew only when something of it is another: whole screens of rows pass by while one scrolls, and
 * an edit brings every row of its sheet anew, of which most say what they said.
 */
export const GridRow = memo(function GridRow({
  at,
  index,
  start,
  columns,
  template,
  costs,
  editable,
  centers,
  units,
  here,
  editing,
  together,
  finding,
  dropOn,
  over,
  grip,
  hands,
}: GridRowProps) {
  const cell = (key: string, right: boolean, content: ReactNode, editor?: () => ReactNode) => (
    <div
      key={key}
      id={`cell-${at.key}-${key}`}
      role="gridcell"
      tabIndex={-1}
      aria-readonly={!hands.canEdit(at, key)}
      className={`flex h-full min-w-0 items-center px-1 ${right ? "justify-end text-right" : ""} ${
        here === key ? "relative outline-2 outline-offset-[-2px] outline-blue bg-paper" : ""
      }`}
      onMouseDown={(event) => {
        if (here === key && editing) return;
        // Dragging starts from what the browser does by itself.
        if (!(event.target as HTMLElement).draggable) event.preventDefault();
        hands.press(at, key, event.shiftKey);
      }}
      onDoubleClick={() => hands.canEdit(at, key) && hands.edit(null)}
    >
      {here === key && editing && editor ? editor() : content}
    </div>
  );
  const lineCell = (line: LineRowOnScreen, c: Column) => {
    const beside = {
      finding,
      grip: editable && line.own ? grip(line) : undefined,
      onToggle: () => hands.toggle(line),
    };
    return cell(c.key, !!c.right, c.show(line, beside), () => {
      const ofPart = partEditOf(c, line);
      const choices = ofPart ? ofPart.choices?.() : c.edit?.choices?.(line, units);
      const first = (ofPart ? ofPart.start(line.part!) : c.edit?.start(line)) ?? "";
      const shared = {
        start: choices ? first : (editing?.text ?? first),
        fresh: editing?.text !== null && !editing?.error,
        error: editing?.error,
        onCancel: hands.cancel,
      };
      if (c.edit?.part)
        return <PartEditor {...shared} onKeep={(text, make, leave) => hands.keep(line, c.key, text, leave, make)} />;
      const done = (text: string, leave: Leave) => hands.keep(line, c.key, text, leave);
      return <CellEditor {...shared} label={c.label || c.key} right={c.right} choices={choices} onKeep={done} />;
    });
  };
  const place = { top: start, zIndex: editing ? 10 : undefined };
  const common = { role: "row", "aria-rowindex": index + 2, "aria-level": at.level + 1 } as const;
  const drop = dropOn(at);
  if (at.kind === "band")
    return (
      <Band
        {...{ row: at, common, style: place, dropOn: drop, over, costs, cell, editing, centers }}
        onKeep={hands.keep}
        onCancel={hands.cancel}
      />
    );
  if (at.kind !== "line")
    return (
      <div
        {...common}
        className="absolute inset-x-0 grid h-8 grid-cols-[320px_320px] items-center border-b border-hair pl-[46px] text-ink-3"
        style={place}
      >
        {freshCells(at, editing, centers, cell, hands.keep, hands.cancel)}
      </div>
    );
  return (
    <div
      {...common}
      aria-expanded={at.opens ? at.open : undefined}
      aria-selected={together}
      {...drop}
      className={`absolute inset-x-0 grid h-8 items-center border-b border-hair pr-1.5 ${together ? "bg-blue-tint" : ""} ${over ? "border-t-2 border-t-blue" : ""} ${counts(at) ? "" : "text-ink-3"}`}
      style={{ ...place, gridTemplateColumns: template }}
    >
      {columns.map((c) => lineCell(at, c))}
    </div>
  );
}, sameOnScreen);
