import type { Line } from "./change";
import { linesByOperation, type Model } from "./product";
import type { OperationRow, PartRow } from "./wire";

export interface BandRow {
  kind: "band";
  key: string;
  level: number;
  own: boolean;
  operation: OperationRow;
  /** How many of the part it works on stand in one of the top part, net of losses. */
  share: number;
}

export interface LineRowOnScreen {
  kind: "line";
  key: string;
  level: number;
  own: boolean;
  line: Line;
  part: PartRow | null;
  /** How many of the part are taken on all paths together; null where it does not count. */
  taken: number | null;
  share: number;
  /** What the job takes along this path. */
  needed: number | null;
  /** The basis is a job: needs are rounded up once. */
  job: boolean;
  opens: boolean;
  open: boolean;
}

/** The empty rows where typing makes a line or an operation: at the foot, and the one asked for below a row. */
export type NewRow =
  | { kind: "new-line"; key: "new-line" | "new-here"; level: number; own: true }
  /** `name` is that of an operation whose work center is still to be chosen. */
  | { kind: "new-operation"; key: "new-operation"; level: number; own: true; name: string | null }
  /** What is to work beside an operation: its work center is still to be chosen. */
  | { kind: "new-resource"; key: "new-resource"; level: number; own: true; operation: OperationRow };

export type Row = BandRow | LineRowOnScreen | NewRow;

/**
 * The rows on screen.
 * @param open keys of the lines that stand open
 * @param bands operations as bands with their lines beneath, or the lines alone
 * @param keptOff whether lines that are kept off the list of lines alone stand there, too
 * @param fresh below which row an empty line stands, the name of an operation that is being made, and the key of the operation
 * that is to get something beside it
 */
export function visibleRows(
  model: Model,
  open: Set<string>,
  bands: boolean,
  editable: boolean,
  keptOff: boolean,
  fresh: { below: string | null; operation: string | null; beside: string | null },
): Row[] {
  const { view } = model;
  const rows: Row[] = [];
  const quantity = view.basis.quantity === null ? 1 : Number(view.basis.quantity);
  const walk = (part: number, path: string, level: number, share: number, needed: number) => {
    const groups: [OperationRow | null, Line[]][] = bands
      ? linesByOperation(model, part)
      : [[null, model.lines.get(part) ?? []]];
    for (const [operation, lines] of groups) {
      const own = level === 0;
      if (operation)
        for (const each of [operation, ...(model.beside.get(operation.id) ?? [])])
          rows.push({ kind: "band", key: `${path}/${each.id}`, level, own, operation: each, share });
      if (operation && own && editable && operation.id === fresh.beside)
        rows.push({ kind: "new-resource", key: "new-resource", level: 0, own: true, operation });
      for (const line of lines) {
        if (!bands && !keptOff && line.kept_off.includes("lines")) continue;
        const key = `${path}/${line.id}`;
        const child = view.parts[line.child] ?? null;
        const counts = line.net !== null && line.net !== undefined;
        const opens =
          line.kind === "component" &&
          child !== null &&
          // Of a view that is not whole only the parts say which of them have a sheet.
          (model.lines.has(line.child) || model.operations.has(line.child) || (!view.whole && child.sheet !== null)) &&
          level < 30;
        const isOpen = opens && open.has(key);
        const need = counts ? needed * line.gross! : null;
        rows.push({
          kind: "line",
          key,
          level,
          own: level === 0,
          line,
          part: child,
          taken: view.needs[line.child] ?? null,
          share,
          needed: need,
          job: view.basis.quantity !== null,
          opens,
          open: isOpen,
        });
        if (isOpen) walk(line.child, key, level + 1, counts ? share * line.net! : 0, need ?? 0);
      }
    }
  };
  walk(view.top, "", 0, 1, quantity);
  if (editable) {
    const at = rows.findIndex((row) => row.key === fresh.below);
    if (at >= 0) {
      // Behind what stands open beneath the row.
      let end = at + 1;
      while (rows[at]!.kind === "line" && rows[end] && rows[end]!.level > 0) end += 1;
      rows.splice(end, 0, { kind: "new-line", key: "new-here", level: 0, own: true });
    }
    rows.push({ kind: "new-line", key: "new-line", level: 0, own: true });
    if (view.parts[view.top]!.kind === "made")
      rows.push({ kind: "new-operation", key: "new-operation", level: 0, own: true, name: fresh.operation });
  }
  return rows;
}
