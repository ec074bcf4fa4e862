import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { useSay } from "../kit/Says";
import { useLater } from "../kit/useLater";
import { addressNow } from "../lib/address";
import { answer, client, type SheetHead } from "../lib/api";
import { sheetAddress, useBasis } from "../lib/basis";
import { useReference, useRefusal, useSeesCosts } from "../lib/session";
import { linesByOperation } from "../model/product";
import { type LineRowOnScreen, type Row, visibleRows } from "../model/rows";
import { type PartRow, stateOf } from "../model/wire";
import { useFindings } from "../pieces/findings/useFindings";
import type { OperationAside } from "./asides/OperationHead";
import { figureAt } from "./grid/cells";
import { type ColumnSet, columnsOf } from "./grid/columns";
import type { Cursor, Editing, GridHandle } from "./grid/cursor";
import { useOwnFields } from "./grid/useOwnFields";
import type { Reading, SheetVerb } from "./readings/reading";
import { useParts } from "./useParts";
import { useRefused } from "./useRefused";
import { useSheet } from "./useSheet";

export type Aside = "working" | "details" | "findings" | "pasted" | OperationAside;

/** What is open on one sheet: the basis, the rows, the cursor, what is chosen, what stands beside it. */
export function useWork(head: SheetHead, revisions: SheetHead[], onShow: (id: number | null) => void) {
  const [basis, changeBasis] = useBasis(head.status === "draft");
  const [params, setParams] = useSearchParams();
  const [open, setOpen] = useState<Set<string>>(new Set());
  const costs = useSeesCosts();
  const [columnSet, setColumnSet] = useState<ColumnSet>(costs ? "cost" : "engineering");
  const reading = (params.get("read") as Reading | null) ?? "operations";
  const [cursor, setCursor] = useState<Cursor>(() => {
    const [row, column] = (params.get("at") ?? "").split("~");
    return { row: row ?? "", column: column || "part" };
  });
  // With an anchor, the own lines from there to the cursor are chosen together.
  const [anchor, setAnchor] = useState<string | null>(null);
  // Below which row an empty line stands, and the name of an operation whose work center is still to be chosen.
  const [newBelow, setNewBelow] = useState<string | null>(null);
  const [newOperation, setNewOperation] = useState<string | null>(null);
  /** The operation that is to get something beside it. */
  const [beside, setBeside] = useState<string | null>(null);
  const [pasted, setPasted] = useState<string | null>(null);
  const [editing, setEditing] = useState<Editing | null>(null);
  const [aside, setAside] = useState<Aside>("working");
  const [whole, setWhole] = useState(true);
  /** The figure that was asked for in a reading without a cursor. */
  const [asked, setAsked] = useState<string | null>(null);
  const [verb, setVerb] = useState<SheetVerb | null>(null);
  const [keptOff, setKeptOff] = useState(false);
  const [part, setPart] = useState<string | null>(null);
  const leaveRing = useRef<(() => void) | null>(null);
  const grid = useRef<GridHandle>(null);
  const side = useRef<HTMLElement>(null);
  const mayNot = useRefusal("sheets");
  const say = useSay();
  const navigate = useNavigate();
  const units = useReference().data?.units ?? [];

  const refused = useRefused(editing !== null, (cell, back) => {
    setCursor(cell);
    setEditing(back);
  });
  const parts = useParts();
  const { query, queue, ...read } = useSheet(head.id, basis, refused.take, parts.made, parts.left);
  // The other readings go through all that the sheet takes, and wait for it.
  const shown = read.view?.whole || reading === "operations" || reading === "lines";
  const [view, model] = shown ? [read.view, read.model] : [];
  const own = useOwnFields(view, columnSet === "fields");
  const columns = useMemo(() => [...columnsOf(columnSet), ...(columnSet === "fields" ? own : [])], [columnSet, own]);
  // Looked for once something is refused: to list thousands of rows takes part of the time in which an edit is drawn.
  refused.onScreen.current = (id) => [view?.lines, view?.operations].some((held) => held?.some((r) => r.id === id));
  // The sheet itself comes first where nobody types into it.
  const known = useQuery({
    queryKey: ["work-centers"],
    queryFn: () => answer(client.GET("/api/work-centers")),
    enabled: view !== undefined || head.status === "draft",
  });
  const centers = known.data ?? [];
  const findings = useFindings(head.id, useLater(view ? stateOf(view) : "")).data ?? [];
  const editable = mayNot === undefined && head.why_not.edit === null;
  const rows = useMemo(
    () =>
      model
        ? visibleRows(model, open, reading !== "lines", editable, keptOff, {
            below: newBelow,
            operation: newOperation,
            beside,
          })
        : [],
    [model, open, reading, editable, keptOff, newBelow, newOperation, beside],
  );
  const row: Row | undefined = rows.find((r) => r.key === cursor.row) ?? rows[0];
  const chosen = useMemo(() => {
    const to = rows.findIndex((r) => r.key === cursor.row);
    const from = anchor === null ? to : rows.findIndex((r) => r.key === anchor);
    if (to < 0 || from < 0) return [];
    return rows
      .slice(Math.min(from, to), Math.max(from, to) + 1)
      .filter((r): r is LineRowOnScreen => r.kind === "line" && r.own);
  }, [rows, anchor, cursor.row]);
  const chosenKeys = useMemo(() => new Set(anchor === null ? [] : chosen.map((r) => r.key)), [anchor, chosen]);

  const { clear } = refused;
  const place = useCallback(
    (next: Cursor) => {
      setAnchor(null);
      setCursor(next);
      setWhole(false);
      clear();
      // An empty line that is left without a word goes.
      if (next.row !== "new-here") setNewBelow(null);
      if (next.row !== "new-resource") setBeside(null);
    },
    [clear],
  );
  const setReading = useCallback(
    (next: Reading) =>
      setParams(
        () => {
          const fresh = addressNow();
          next === "operations" ? fresh.delete("read") : fresh.set("read", next);
          return fresh;
        },
        { replace: true },
      ),
    [setParams],
  );
  // The address follows the cursor, so that it leads back to the same cell.
  useEffect(() => {
    const { pathname } = window.location;
    const timer = window.setTimeout(
      () =>
        // On the way to another screen the address is that one's already, and must be let be.
        window.location.pathname === pathname &&
        setParams(
          () => {
            const next = addressNow();
            if (cursor.row) next.set("at", `${cursor.row}~${cursor.column}`);
            return next;
          },
          { replace: true },
        ),
      400,
    );
    return () => window.clearTimeout(timer);
  }, [cursor, setParams]);

  const operations = (model && view && model.operations.get(view.top)) || [];
  return {
    ...{
      parts,
      head,
      revisions,
      onShow,
      basis,
      changeBasis,
      query,
      view,
      model,
      queue,
      findings,
      refused,
      say,
      navigate,
    },
    ...{
      rows,
      row,
      columns,
      columnSet,
      costs,
      setColumnSet,
      reading,
      setReading,
      keptOff,
      setKeptOff,
      units,
      centers,
      centersRead: known.isSuccess,
    },
    ...{ cursor, setCursor, anchor, setAnchor, place, chosen, chosenKeys, editing, setEditing, editable, mayNot },
    ...{
      newBelow,
      setNewBelow,
      newOperation,
      setNewOperation,
      beside,
      setBeside,
      pasted,
      setPasted,
      aside,
      setAside,
      whole,
      setWhole,
    },
    ...{ verb, setVerb, part, setPart, leaveRing, grid, side, operations },
    /** What a panel about one operation is about: that of the row, or the one its line is taken at. */
    operation:
      row?.kind === "band" || row?.kind === "new-resource"
        ? (operations.find((o) => o.id === row.operation.beside) ?? row.operation)
        : row?.kind === "line" && model
          ? (linesByOperation(model, row.line.parent).find(([, held]) => held.some((x) => x.id === row.line.id))?.[0] ??
            null)
          : null,
    asked,
    setAsked,
    figure:
      view && costs
        ? asked && (whole || reading === "overview")
          ? asked
          : whole
            ? `unit:${view.parts[view.top]!.id}`
            : figureAt(row, cursor.column, columns, view)
        : null,
    toggle: (at: LineRowOnScreen) =>
      setOpen((old) => {
        const next = new Set(old);
        next.has(at.key) ? next.delete(at.key) : next.add(at.key);
        return next;
      }),
    extend: (to: string) => {
      setAnchor((old) => old ?? cursor.row);
      setCursor((old) => ({ ...old, row: to }));
    },
    /** To the sheet of a part, or to what is known of it. */
    goTo: (to: PartRow) =>
      to.kind === "made" || to.kind === "phantom" ? navigate(sheetAddress(to.number, basis)) : setPart(to.number),
    closeAside: () => {
      setAside("working");
      grid.current?.focus();
    },
    /** Why nothing can be typed here, and what would mend it. */
    sayLocked: () => {
      if (mayNot) say(mayNot, { bad: true });
      else
        say(head.why_not.edit ?? "", {
          bad: true,
          act: { label: "Open a new revision", run: () => setVerb("revise") },
        });
    },
  };
}

export type Work = ReturnType<typeof useWork>;
/** A sheet that has been read. */
export type ReadWork = Work & { view: NonNullable<Work["view"]>; model: NonNullable<Work["model"]> };
