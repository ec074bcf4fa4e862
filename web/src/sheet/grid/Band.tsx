import type { CSSProperties, HTMLAttributes, ReactNode } from "react";
import { CellEditor, type Leave } from "../../kit/CellEditor";
import type { WorkCenterOut } from "../../lib/api";
import type { BandRow, Row } from "../../model/rows";
import { BAND_CELLS } from "./bandCells";
import { CenterEditor } from "./CenterEditor";
import type { Editing } from "./cursor";
import { ShareBar } from "./ShareBar";

/** An operation: a band over the lines that are taken at it. */
export function Band({
  row,
  common,
  style,
  dropOn,
  over,
  costs,
  cell,
  editing,
  centers,
  onKeep,
  onCancel,
}: {
  row: BandRow;
  common: { role: "row"; "aria-rowindex": number; "aria-level": number };
  style: CSSProperties;
  dropOn: HTMLAttributes<HTMLDivElement>;
  /** A dragged line is above it. */
  over: boolean;
  /** Whether its cost and share stand on it. */
  costs: boolean;
  cell: (key: string, right: boolean, content: ReactNode, editor?: () => ReactNode) => ReactNode;
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
        gridTemplateColumns: `${nested ? 46 + row.level * 16 + 16 : 52}px minmax(120px, 1.3fr) minmax(90px, 1fr) 118px 128px ${costs ? "62px 76px" : "0px 0px"}`,
      }}
    >
      {!nested && <span className="absolute inset-y-0 left-0 w-1 bg-blue" />}
      {BAND_CELLS.map((b) => {
        if (b.key === "work" && !costs) return <span key={b.key} role="presentation" />;
        return cell(b.key, !!b.right, b.show(row, !nested), () => {
          const shared = {
            start: editing?.text ?? b.edit?.start(row) ?? "",
            fresh: editing?.text !== null && !editing?.error,
            error: editing?.error,
            onCancel,
          };
          const kept = (text: string, leave: Leave) => onKeep(row, b.key, text, leave);
          return b.edit?.center ? (
            <CenterEditor {...shared} outside={row.operation.beside === null} centers={centers} onKeep={kept} />
          ) : (
            <CellEditor {...shared} label={b.label} onKeep={kept} />
          );
        });
      })}
      <span className="px-1" role="presentation">
        {costs && <ShareBar elements={row.operation.elements} scale={row.share} />}
      </span>
    </div>
  );
}
