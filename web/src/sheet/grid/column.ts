import type { ReactNode } from "react";
import type { Schemas } from "../../lib/api";
import type { LineValues, OperationValues } from "../../model/change";
import type { BandRow, LineRowOnScreen } from "../../model/rows";
import type { PartRow, SheetView } from "../../model/wire";
import type { FindingOut } from "../../pieces/findings/useFindings";

/** What a cell says in a file: numbers as numbers. */
export type Cell = string | number | null;

export type Choices = [value: string, words: string][];
export type Units = { symbol: string; measures: string }[];

/** What a cell is shown beside. */
export interface Beside {
  finding: FindingOut | undefined;
  /** By its item number a line is dragged. */
  grip?: React.HTMLAttributes<HTMLSpanElement>;
  onToggle: () => void;
}

/** How a cell is typed into. */
export interface LineEdit {
  /** What the editor starts from. */
  start: (row: LineRowOnScreen) => string;
  /** Lines that name a part when nothing is said. */
  of?: "notes" | "both";
  /** A part is chosen, not typed. */
  part?: boolean;
  choices?: (row: LineRowOnScreen, units: Units) => Choices;
  /** What was typed, as fields of the line; `make` is the kind of a part that is to be made. */
  apply: (text: string, row: LineRowOnScreen, make: LineValues["make"]) => LineValues;
  /** The fields it types into: what is refused of them goes back to this cell. */
  fields: string[];
}

/** How something of the part itself is typed into a cell of a line, while the part is a draft. */
export interface PartEdit {
  start: (part: PartRow) => string;
  choices?: () => Choices;
  apply: (text: string) => Partial<Schemas["PartIn"]>;
}

/** A column of lines: what it says, how it looks, how it is typed into, and which figure opens from it. */
export interface Column {
  key: string;
  label: string;
  width: string;
  right?: boolean;
  /** In files it holds numbers. */
  number?: boolean;
  value: (row: LineRowOnScreen) => Cell;
  show: (row: LineRowOnScreen, beside: Beside) => ReactNode;
  edit?: LineEdit;
  ofPart?: PartEdit;
  figure?: (row: LineRowOnScreen, view: SheetView) => string | null;
}

/** A cell of an operation's band; `beside` is the column of lines that stands nearest. */
export interface BandCell {
  key: "sequence" | "name" | "center" | "setup" | "run" | "work";
  label: string;
  right?: boolean;
  beside: string[];
  show: (row: BandRow, own: boolean) => ReactNode;
  edit?: {
    start: (row: BandRow) => string;
    /** Only of an operation itself, not of what works beside one. */
    alone?: boolean;
    center?: boolean;
    apply: (text: string, row: BandRow, centers: { code: string; crew: string }[]) => OperationValues;
    fields: string[];
  };
}
