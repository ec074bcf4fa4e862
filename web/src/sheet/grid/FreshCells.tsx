import type { ReactNode } from "react";
import { CellEditor, type Leave } from "../../kit/CellEditor";
import { PartEditor } from "../../kit/PartEditor";
import type { WorkCenterOut } from "../../lib/api";
import type { LineValues } from "../../model/change";
import type { NewRow, Row } from "../../model/rows";
import { CenterEditor } from "./CenterEditor";
import type { Editing } from "./cursor";

/** The cells of an empty row: a part or a note; the name of an operation, and then its work center; the work center of
 * what is to work beside one. */
export function freshCells(
  at: NewRow,
  editing: Editing | null,
  centers: WorkCenterOut[],
  cell: (key: string, right: boolean, content: ReactNode, editor?: () => ReactNode) => ReactNode,
  keep: (row: Row, key: string, text: string, leave: Leave, make?: LineValues["make"]) => void,
  onCancel: () => void,
): ReactNode {
  const shared = { start: editing?.text ?? "", fresh: true, error: editing?.error, onCancel };
  const kept = (key: string) => (text: string, leave: Leave) => (text.trim() ? keep(at, key, text, leave) : onCancel());
  if (at.kind === "new-line")
    return [
      cell("part", false, "+ part number of a new line", () => (
        <PartEditor {...shared} onKeep={(text, make, leave) => keep(at, "part", text, leave, make)} />
      )),
      cell("description", false, "+ or a note", () => (
        <CellEditor {...shared} label="Text of the new note" onKeep={kept("description")} />
      )),
    ];
  if (at.kind === "new-resource")
    return cell(
      "center",
      false,
      <span className="text-brass">choose the work center beside operation {at.operation.sequence}</span>,
      () => (
        <CenterEditor
          {...shared}
          outside={false}
          centers={centers}
          onKeep={(code, leave) => keep(at, "center", code, leave)}
        />
      ),
    );
  const name = at.name ?? "+ name of a new operation";
  return [
    cell("name", false, at.name ? <b className="font-semibold text-ink">{name}</b> : name, () => (
      <CellEditor
        {...shared}
        start={editing?.text ?? at.name ?? ""}
        label="Name of the new operation"
        onKeep={kept("name")}
      />
    )),
    at.name !== null &&
      cell("center", false, <span className="text-brass">choose its work center</span>, () => (
        <CenterEditor {...shared} centers={centers} onKeep={(code, leave) => keep(at, "center", code, leave)} />
      )),
  ];
}
