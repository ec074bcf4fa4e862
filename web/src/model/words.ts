import type { Change, Line } from "./change";
import type { SheetView } from "./wire";

/** A step in words: which row, and what was typed. */
export function wordsOf(view: SheetView, changes: Change[]): string {
  const change = changes[0];
  if (!change) return "";
  const line = (view.lines as Line[]).find((other) => other.id === change.id);
  const operation = view.operations.find((other) => other.id === change.id);
  const row = line
    ? `item ${line.item ?? ""} ${line.typedPart ?? view.parts[line.child]?.number ?? line.text}`.trim()
    : operation
      ? `${operation.beside === null ? "" : "beside "}operation ${operation.sequence}`
      : change.table;
  const typedIn = Object.entries(change.after ?? {})
    .slice(0, 2)
    .map(([name, value]) => `${name.replaceAll("_", " ")} ${value === null || value === "" ? "empty" : String(value)}`);
  return `${row}: ${change.after === null ? "take away" : typedIn.join(", ")}`;
}
