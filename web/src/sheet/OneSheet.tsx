import { useQuery } from "@tanstack/react-query";
import { type ClipboardEvent, type KeyboardEvent, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { SheetFindings } from "../findings/SheetFindings";
import { useFindings } from "../findings/useFindings";
import { Button } from "../kit/Button";
import { download } from "../kit/download";
import { useSay } from "../kit/Says";
import { addressNow } from "../lib/address";
import { answer, client, type Refusal, type SheetHead, stateOf } from "../lib/api";
import { sheetAddress, useBasis } from "../lib/basis";
import { day, typed } from "../lib/number";
import { useReference, useRefusal } from "../lib/session";
import { PartPanel } from "../parts/PartPanel";
import { CostQuestions } from "../questions/CostQuestions";
import { RankedInputs } from "../questions/RankedInputs";
import { WhatIf } from "../questions/WhatIf";
import { asRows } from "./asRows";
import { BasisBar } from "./BasisBar";
import { BringOperations } from "./BringOperations";
import { COLUMN_SETS, type ColumnSet, columnsOf, figureAt } from "./columns";
import { Details } from "./Details";
import {
  addLine,
  addOperations,
  asNote,
  type Below,
  copiedLines,
  doneAt,
  moveLines,
  moveOperation,
  pasteLines,
  placeLines,
  readLoss,
  readOption,
  removeLine,
  removeOperation,
  resequence,
  setLine,
  setOperation,
  wordsOf,
} from "./edits";
import { HistoryPanel } from "./HistoryPanel";
import { Instructions } from "./Instructions";
import { LibraryPanel } from "./LibraryPanel";
import { Measured } from "./Measured";
import { type Change, type LineRowOnScreen, linesByOperation, type Row, visibleRows } from "./model";
import { type OperationAside, OperationHead } from "./OperationHead";
import { OptionsPanel } from "./OptionsPanel";
import { OrderOfWork } from "./OrderOfWork";
import { PartNumbersPanel } from "./PartNumbersPanel";
import { PastePanel } from "./PastePanel";
import { RenumberPanel } from "./RenumberPanel";
import { isVerb, RevisionPanel } from "./RevisionPanel";
import { Rings } from "./Rings";
import { type Cursor, type Editing, type GridHandle, SheetGrid } from "./SheetGrid";
import { type Reading, SheetHeader, type SheetVerb } from "./SheetHeader";
import { StaleDialog } from "./StaleDialog";
import { SummedList } from "./SummedList";
import { TimeChart } from "./TimeChart";
import { TreePicture } from "./TreePicture";
import { useSheet } from "./useSheet";
import { WorkingPanel } from "./WorkingPanel";

/** Which cell of the grid a field is typed into: a refused text goes back there. */
const CELL_OF: Record<"line" | "operation" | "sheet", Record<string, string>> = {
  line: {
    item: "item",
    part: "part",
    quantity: "quantity",
    unit: "unit",
    scrap_percent: "loss",
    yield_percent: "loss",
    fixed_loss: "fixed",
    option: "option",
    quantity_basis: "per",
  },
  operation: {
    sequence: "sequence",
    name: "name",
    work_center: "center",
    setup_minutes: "setup",
    run_minutes: "run",
  },
  sheet: {},
};

/** Keys that would change a cell, besides letters and digits. */
const EDITS = new Set(["Enter", "F2", "Delete", "Backspace"]);

/** Lines of a sheet on the clipboard, whole; beside them stands plain text for spreadsheets. */
const LINES_TYPE = "application/x-build-sheet-lines";

/** Changes that the server refused, and why. */
interface Refused {
  error: Refusal;
  changes: Change[];
}

/** From when to when a sheet holds, in words. */
function holdsWhen(sheet: SheetHead): string {
  const name = `Revision ${sheet.revision} of alternate ${sheet.alternate}`;
  if (sheet.status === "draft") return `${name} is a draft and counts on no day yet.`;
  if (sheet.status === "retired") return `${name} is retired and counts on no day.`;
  const { effective_from: from, effective_to: to } = sheet;
  if (!from && !to) return `${name} holds on every day, but is not the one that is taken.`;
  return `${name} holds ${from ? `from ${day(from)}` : ""}${from && to ? " " : ""}${to ? `up to, not on, ${day(to)}` : from ? " on" : ""}.`;
}

/** One sheet under a basis: the grid, the working, the rings. */
export function OneSheet({
  head,
  counts,
  revisions,
  onShow,
}: {
  head: SheetHead;
  /** The sheet that counts on the day of the basis. */
  counts: SheetHead | null;
  revisions: SheetHead[];
  onShow: (id: number | null) => void;
}) {
  const [basis, changeBasis] = useBasis(head.status === "draft");
  const [params, setParams] = useSearchParams();
  const [open, setOpen] = useState<Set<string>>(new Set());
  const [columnSet, setColumnSet] = useState<ColumnSet>("cost");
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
  const [pasted, setPasted] = useState<string | null>(null);
  const [editing, setEditing] = useState<Editing | null>(null);
  const [aside, setAside] = useState<"working" | "details" | "findings" | "pasted" | OperationAside>("working");
  const [whole, setWhole] = useState(true);
  const [verb, setVerb] = useState<SheetVerb | null>(null);
  const [keptOff, setKeptOff] = useState(false);
  const [part, setPart] = useState<string | null>(null);
  const [refused, setRefused] = useState<Refused | null>(null);
  // Changes made outside the grid: what is refused of them goes back to the field it came from.
  const outsideGrid = useRef(new WeakSet<Change[]>());
  const leaveRing = useRef<(() => void) | null>(null);
  const grid = useRef<GridHandle>(null);
  const side = useRef<HTMLElement>(null);
  const mayNot = useRefusal("sheets");
  const may = mayNot === undefined;
  const say = useSay();
  const navigate = useNavigate();
  const units = useReference().data?.units ?? [];
  const centers =
    useQuery({ queryKey: ["work-centers"], queryFn: () => answer(client.GET("/api/work-centers")) }).data ?? [];
  const columns = useMemo(() => columnsOf(columnSet), [columnSet]);

  const shown = useRef<Refused | null>(null);
  shown.current = refused;
  const onScreen = useRef(new Set<string>());
  const typing = useRef(false);
  typing.current = editing !== null;
  const onRefused = useCallback(
    (error: Refusal, changes: Change[]) => {
      // Where another one is shown, or something else is being typed, it waits above the sheet.
      if (shown.current || (typing.current && !outsideGrid.current.has(changes))) return false;
      shown.current = { error, changes };
      setRefused(shown.current);
      if (outsideGrid.current.has(changes)) {
        say(error.message, { bad: true });
        return true;
      }
      const problem = error.problems[0];
      const [id, field] = problem ? [problem.place.slice(0, 36), problem.place.slice(37)] : ["", ""];
      const change = changes.find((c) => c.id === id);
      // Its row is gone, so there is no cell to go back to.
      if (change && change.table !== "sheet" && !onScreen.current.has(id)) {
        shown.current = null;
        setRefused(null);
        return false;
      }
      const column = change && CELL_OF[change.table][field];
      if (change && column && change.before && change.after && field in change.after) {
        // Back into the cell, with what was typed.
        setCursor({ row: `/${id}`, column });
        const text = change.after[field];
        setEditing({ text: text === null || text === undefined ? "" : String(text), error: problem!.message });
      } else say(error.message, { bad: true });
      return true;
    },
    [say],
  );
  const onMade = useCallback(
    (numbers: string[]) =>
      say(
        `Made ${numbers.join(", ")} as ${numbers.length === 1 ? "a draft part" : "draft parts"}. Alt Enter on the line opens it.`,
      ),
    [say],
  );
  const onLeft = useCallback(
    (numbers: string[]) =>
      say(
        `${numbers.join(", ")} ${numbers.length === 1 ? "was made as a draft part and is" : "were made as draft parts and are"} still there.`,
        {
          act: {
            label: "Take away",
            run: () =>
              answer(client.POST("/api/parts/drop", { body: { numbers } })).then(
                () =>
                  say(
                    `${numbers.join(", ")} ${numbers.length === 1 ? "is" : "are"} gone; the history keeps what was there.`,
                  ),
                (error: Error) => say(error.message, { bad: true }),
              ),
          },
        },
      ),
    [say],
  );
  const sheet = useSheet(head.id, basis, onRefused, onMade, onLeft);
  const { model, view } = sheet;
  onScreen.current = useMemo(
    () => new Set([...(view?.lines ?? []), ...(view?.operations ?? [])].map((r) => r.id)),
    [view],
  );
  const findings = useFindings(head.id, view ? stateOf(view) : "").data ?? [];
  const editable = may && head.status === "draft";
  const editOutsideGrid = (changes: Change[]) => {
    outsideGrid.current.add(changes);
    setRefused(null);
    sheet.edit(changes);
  };
  /** What was typed into a field and refused, with the reason. */
  const refusedField = (id: string | null, field: string) => {
    const change = refused?.changes.find((c) => c.id === id && c.after);
    const after = change?.after as Record<string, unknown> | undefined;
    const outside = after?.subcontract as Record<string, unknown> | undefined;
    const message = refused?.error.problems.find(
      (p) => p.place.split(".").slice(1).join(".").replace("subcontract.", "") === field,
    )?.message;
    if (!change || !message || !after) return undefined;
    return { message, typed: field in after ? after[field] : outside?.[field] };
  };
  const rows = useMemo(
    () =>
      model
        ? visibleRows(model, open, reading !== "lines", editable, keptOff, { below: newBelow, operation: newOperation })
        : [],
    [model, open, reading, editable, keptOff, newBelow, newOperation],
  );
  const row = rows.find((r) => r.key === cursor.row) ?? rows[0];

  const chosen = useMemo(() => {
    const to = rows.findIndex((r) => r.key === cursor.row);
    const from = anchor === null ? to : rows.findIndex((r) => r.key === anchor);
    if (to < 0 || from < 0) return [];
    return rows
      .slice(Math.min(from, to), Math.max(from, to) + 1)
      .filter((r): r is LineRowOnScreen => r.kind === "line" && r.own);
  }, [rows, anchor, cursor.row]);
  const chosenKeys = useMemo(() => new Set(anchor === null ? [] : chosen.map((r) => r.key)), [anchor, chosen]);

  const place = useCallback((next: Cursor) => {
    setAnchor(null);
    setCursor(next);
    setWhole(false);
    setRefused(null);
    // An empty line that is left without a word goes.
    if (next.row !== "new-here") setNewBelow(null);
  }, []);
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

  const keep = (at: Row, column: string, text: string, make = "bought") => {
    if (!model || !view) return;
    setRefused(null);
    const clean = text.trim();
    if (at.kind === "new-line") {
      const above = at.key === "new-here" ? rows.find((r) => r.key === newBelow) : undefined;
      const below: Below =
        above?.kind === "line" ? { line: above.line } : above?.kind === "band" ? { operation: above.operation } : null;
      const note = column === "description";
      const [id, changes] = addLine(model, note ? asNote(clean) : { part: clean, make, quantity: "1" }, below);
      sheet.edit(changes);
      place({ row: `/${id}`, column: note ? "description" : "quantity" });
      return;
    }
    if (at.kind === "new-operation") {
      if (centers.length === 0) {
        say("An operation is done at a work center, and there is none yet.", {
          bad: true,
          act: { label: "Make a work center", run: () => navigate("/work-centers?new=1") },
        });
      } else if (column === "name") {
        setNewOperation(clean);
        place({ row: "new-operation", column: "center" });
        setEditing({ text: "" });
      } else {
        const [[id], changes] = addOperations(model, [{ name: newOperation, ...doneAt(null, clean, centers) }]);
        setNewOperation(null);
        sheet.edit(changes);
        place({ row: `/${id}`, column: "setup" });
      }
      return;
    }
    if (at.kind === "band") {
      const fields: Record<string, Record<string, unknown>> = {
        sequence: { sequence: /^\d+$/.test(clean) ? Number(clean) : clean },
        name: { name: clean },
        center: clean === at.operation.work_center ? {} : doneAt(at.operation, clean, centers),
        setup: { setup_minutes: typed(clean) || "0" },
        run: { run_minutes: typed(clean) || "0" },
      };
      const next = fields[column]?.sequence;
      const own = model.operations.get(view.top) ?? [];
      // A number that is free goes along where other operations name it as followed.
      const free = typeof next === "number" && !own.some((o) => o.sequence === next);
      sheet.edit(
        free
          ? resequence(own, new Map([[at.operation.sequence, next]]))
          : setOperation(at.operation, fields[column] ?? {}),
      );
      return;
    }
    const fields: Record<string, () => Record<string, unknown>> = {
      item: () => ({ item: clean === "" ? null : /^\d+$/.test(clean) ? Number(clean) : clean }),
      part: () => ({ part: clean, make }),
      description: () => ({ text: clean }),
      quantity: () => ({ quantity: typed(clean) || null }),
      unit: () => ({ unit: clean === at.part?.unit ? null : clean }),
      loss: () => readLoss(clean),
      fixed: () => ({ fixed_loss: typed(clean) || "0" }),
      per: () => ({ quantity_basis: clean }),
      option: () => readOption(clean),
      use: () => ({ not_fitted: clean === "not_fitted", customer_supplied: clean === "customer" }),
    };
    sheet.edit(setLine(view, at.line, fields[column]?.() ?? {}));
  };

  const toggle = (at: LineRowOnScreen) =>
    setOpen((old) => {
      const next = new Set(old);
      next.has(at.key) ? next.delete(at.key) : next.add(at.key);
      return next;
    });

  const goTo = (at: Row | undefined) => {
    if (at?.kind !== "line" || !at.part) return;
    if (at.part.kind === "made" || at.part.kind === "phantom") {
      navigate(sheetAddress(at.part.number, basis));
    } else setPart(at.part.number);
  };

  /** Why nothing can be typed here, and what would mend it. */
  const sayLocked = () => {
    if (mayNot) say(mayNot, { bad: true });
    else
      say(`Revision ${head.revision} is ${head.status} and locked. What is typed goes into a new revision.`, {
        bad: true,
        act: { label: "Open a new revision", run: () => setVerb("revise") },
      });
  };

  const key = (event: KeyboardEvent, at: Row | undefined): boolean => {
    const { key: pressed, ctrlKey, metaKey, altKey, shiftKey } = event;
    const ctrl = ctrlKey || metaKey;
    const done = () => {
      event.preventDefault();
      return true;
    };
    if (pressed === "Escape" && leaveRing.current) {
      leaveRing.current();
      return done();
    }
    if (altKey && pressed === "Enter") {
      goTo(at);
      return done();
    }
    if (altKey && pressed.toLowerCase() === "v") {
      setReading(reading === "operations" ? "lines" : "operations");
      return done();
    }
    if (altKey && pressed.toLowerCase() === "c") {
      setColumnSet(COLUMN_SETS[(COLUMN_SETS.indexOf(columnSet) + 1) % COLUMN_SETS.length]!);
      return done();
    }
    const opens = {
      d: "details",
      w: "working",
      f: "findings",
      o: "order",
      i: "instructions",
      m: "measured",
    } as const;
    if (altKey && pressed.toLowerCase() in opens) {
      setAside(opens[pressed.toLowerCase() as keyof typeof opens]);
      window.setTimeout(
        () =>
          side.current?.querySelector<HTMLElement>("[data-operation][tabindex='0'], input, select, button")?.focus(),
        30,
      );
      return done();
    }
    if (shiftKey && !ctrl && !altKey && (pressed === "ArrowDown" || pressed === "ArrowUp")) {
      const next = rows[rows.findIndex((r) => r.key === cursor.row) + (pressed === "ArrowDown" ? 1 : -1)];
      if (next) extend(next.key);
      return done();
    }
    if (pressed === "Escape" && anchor !== null) {
      setAnchor(null);
      return done();
    }
    if (!editable || !model || !view) {
      const types =
        !ctrl && !altKey && (pressed.length === 1 ? pressed !== " " && pressed !== "?" : EDITS.has(pressed));
      if (types && at && (at.kind === "line" || at.kind === "band")) {
        sayLocked();
        return done();
      }
      return false;
    }
    if (ctrl && pressed.toLowerCase() === "z" && !shiftKey) {
      if (!sheet.undo()) say("There is nothing to undo.");
      return done();
    }
    if (ctrl && (pressed.toLowerCase() === "y" || (pressed.toLowerCase() === "z" && shiftKey))) {
      if (!sheet.redo()) say("There is nothing to redo.");
      return done();
    }
    if (ctrl && pressed === "Enter") {
      if (shiftKey) place({ row: "new-operation", column: "name" });
      else newLine(at, "part");
      setEditing({ text: "" });
      return done();
    }
    if (altKey && pressed.toLowerCase() === "t") {
      newLine(at, "description");
      setEditing({ text: "" });
      return done();
    }
    if (pressed === "Escape" && newBelow !== null) {
      place({ row: newBelow, column: "part" });
      return done();
    }
    if (pressed === "Delete" && at?.kind === "new-operation") {
      setNewOperation(null);
      place({ row: "new-operation", column: "name" });
      return done();
    }
    if (!at?.own) return false;
    if (pressed === "Delete" && chosen.length > 1) {
      sheet.edit(chosen.flatMap((r) => removeLine(view, r.line)));
      say(`Took ${chosen.length} lines away.`, { act: { label: "Undo", run: () => sheet.undo() } });
      const next = rows[rows.indexOf(chosen.at(-1)!) + 1];
      if (next) place({ row: next.key, column: cursor.column });
      return done();
    }
    if (pressed === "Delete" && (at.kind === "line" || at.kind === "band")) {
      const next = rows[rows.indexOf(at) + 1];
      sheet.edit(at.kind === "line" ? removeLine(view, at.line) : removeOperation(model, at.operation));
      say(
        at.kind === "line"
          ? `Took item ${at.line.item ?? ""} ${at.part?.number ?? ""} away.`
          : `Took operation ${at.operation.sequence} away.`,
        {
          act: { label: "Undo", run: () => sheet.undo() },
        },
      );
      if (next) place({ row: next.key, column: cursor.column });
      return done();
    }
    if (altKey && (pressed === "ArrowUp" || pressed === "ArrowDown")) {
      const step = pressed === "ArrowUp" ? -1 : 1;
      if (at.kind === "line" && chosen.length > 0) {
        const moved = moveLines(
          model,
          chosen.map((r) => r.line),
          step,
        );
        if (moved.length === 0 && chosen.length > 1) say("Lines of several operations have no one place to go to.");
        sheet.edit(moved);
      }
      if (at.kind === "band") sheet.edit(moveOperation(model, at.operation, step));
      return done();
    }
    return false;
  };
  /** An empty line below a row of the sheet itself; at the foot where there is none. */
  const newLine = (at: Row | undefined, column: string) => {
    const below = at?.own && (at.kind === "line" || at.kind === "band") ? at.key : null;
    setAnchor(null);
    setWhole(false);
    setNewBelow(below);
    setCursor({ row: below ? "new-here" : "new-line", column });
  };
  const extend = (to: string) => {
    setAnchor((old) => old ?? cursor.row);
    setCursor((old) => ({ ...old, row: to }));
  };
  const copy = (event: ClipboardEvent) => {
    if (!model || !view || editing || chosen.length === 0) return;
    event.preventDefault();
    const lines = chosen.map((r) => r.line);
    event.clipboardData.setData(LINES_TYPE, JSON.stringify(copiedLines(model, lines)));
    const cells = chosen.map((r) => [
      r.line.item ?? "",
      r.part?.number ?? "",
      r.line.kind === "text" ? r.line.text : (r.part?.description ?? ""),
      r.line.quantity ?? "",
      r.line.unit || r.part?.unit || "",
      r.line.scrap_percent ?? "",
      r.line.reference_designators.join(", "),
    ]);
    const heads = ["Item", "Part", "Description", "Quantity", "Unit", "Scrap %", "Reference designators"];
    event.clipboardData.setData("text/plain", [heads, ...cells].map((row) => row.join("\t")).join("\n"));
    say(`Copied ${lines.length} ${lines.length === 1 ? "line" : "lines"}, for another sheet or a spreadsheet.`);
  };
  const keepPasted = (values: Record<string, unknown>[]) => {
    if (!model) return;
    sheet.edit(pasteLines(model, values, row?.kind === "line" && row.own ? row.line : null));
    say(`Put ${values.length} ${values.length === 1 ? "line" : "lines"} in.`, {
      act: { label: "Undo", run: () => sheet.undo() },
    });
  };
  const paste = (event: ClipboardEvent) => {
    if (editing) return;
    event.preventDefault();
    if (!editable) {
      sayLocked();
      return;
    }
    const own = event.clipboardData.getData(LINES_TYPE);
    if (own) keepPasted(JSON.parse(own));
    else {
      setPasted(event.clipboardData.getData("text/plain"));
      setAside("pasted");
    }
  };
  const bring = (values: Record<string, unknown>[]) => {
    if (!model) return;
    const [[first], changes] = addOperations(model, values);
    sheet.edit(changes);
    place({ row: `/${first}`, column: "name" });
    // The dialog gives the focus back to what opened it, first.
    window.setTimeout(() => grid.current?.focus(), 60);
    say(`Put ${values.length} ${values.length === 1 ? "operation" : "operations"} on the routing.`, {
      act: { label: "Undo", run: () => sheet.undo() },
    });
  };
  const drop = (moved: LineRowOnScreen, at: Row) => {
    if (!model || !editable || (at.kind !== "line" && at.kind !== "band") || !at.own) return;
    const lines = chosenKeys.has(moved.key) ? chosen.map((r) => r.line) : [moved.line];
    if (at.kind === "line" && lines.some((line) => line.id === at.line.id)) return;
    const operation = at.kind === "band" ? at.operation.id : at.line.operation;
    const first =
      at.kind === "band"
        ? (linesByOperation(model, view!.top).find(([o]) => o?.id === operation)?.[1][0] ?? null)
        : null;
    sheet.edit(placeLines(model, lines, operation, at.kind === "line" ? at.line : first));
  };
  const onEntered = useCallback((leave: (() => void) | null) => {
    leaveRing.current = leave;
  }, []);

  if (sheet.query.error && !view)
    return (
      <p role="alert" className="p-6 text-bad">
        {sheet.query.error.message}
      </p>
    );
  if (!view || !model) return <p className="p-6 text-ink-3">Reading the sheet …</p>;
  const top = view.parts[view.top]!;
  const offLines = view.lines.filter((line) => line.kept_off.includes("lines")).length;
  // What a panel about one operation is about: that of the row, or the one its line is taken at.
  const operation =
    row?.kind === "band"
      ? row.operation
      : row?.kind === "line"
        ? linesByOperation(model, row.line.parent).find(([, lines]) => lines.some((x) => x.id === row.line.id))?.[0]
        : null;
  const closeAside = () => {
    setAside("working");
    grid.current?.focus();
  };
  const figure = whole ? `unit:${top.id}` : figureAt(row, cursor.column, columns, view);
  return (
    <div className="flex h-full flex-col">
      <BasisBar
        unit={top.unit}
        currency={view.currency}
        options={view.options}
        asOf={view.basis.as_of}
        prices
        basis={basis}
        onChange={changeBasis}
      />
      <WhatIf view={view} basis={basis} onBasis={changeBasis} />
      {(view.problem || sheet.query.error) && (
        <p role="alert" className="border-b border-bad bg-bad-tint px-4 py-1.5 text-bad">
          {sheet.query.error?.message ?? view.problem}
        </p>
      )}
      {sheet.unsent && (
        <p role="alert" className="flex items-center gap-3 border-b border-bad bg-bad-tint px-4 py-1.5 text-bad">
          <span>
            {sheet.unsent.steps.length === 1
              ? "One change is not saved yet: "
              : `${sheet.unsent.steps.length} changes are not saved yet: `}
            {sheet.unsent.steps
              .slice(0, 2)
              .map((step) => wordsOf(view, step.changes))
              .join("; ")}
            . {sheet.unsent.reason}
          </span>
          <Button className="!min-h-[26px] !px-2" onClick={() => sheet.settleUnsent(true)}>
            Try again
          </Button>
          <Button look="quiet" className="!min-h-0" onClick={() => sheet.settleUnsent(false)}>
            Let them go
          </Button>
        </p>
      )}
      {counts?.id !== head.id && (head.status !== "draft" || !basis.drafts) && (
        <p className="flex items-center gap-3 border-b border-brass bg-brass-tint px-4 py-1.5 text-brass">
          <span>
            {holdsWhen(head)} On {day(basis.day || view.basis.as_of)}{" "}
            {counts
              ? `${counts.alternate === head.alternate ? "" : `alternate ${counts.alternate}, `}revision ${counts.revision} counts.`
              : "no sheet of it counts."}
          </span>
          {counts && (
            <Button look="quiet" className="!min-h-0" onClick={() => onShow(counts.id)}>
              Show revision {counts.revision}
            </Button>
          )}
        </p>
      )}
      {view.missing.length > 0 && (
        <p className="border-b border-brass bg-brass-tint px-4 py-1.5 text-brass">
          Without a build sheet in force on this basis, and so counted at nothing: {view.missing.slice(0, 6).join(", ")}
          {view.missing.length > 6 ? ` and ${view.missing.length - 6} more` : ""}.
        </p>
      )}
      <div className="grid min-h-0 flex-1 grid-cols-[1fr_344px]">
        <div className="flex min-h-0 min-w-0 flex-col pl-4">
          <SheetHeader
            view={view}
            basis={basis}
            revisions={revisions}
            editable={editable}
            state={sheet.unsent ? "not saved" : sheet.saving ? "saving …" : editable ? "saved" : ""}
            reading={reading}
            columnSet={columnSet}
            onShow={onShow}
            onVerb={setVerb}
            findings={findings}
            onFindings={() => setAside("findings")}
            onReading={setReading}
            onColumns={setColumnSet}
            onLeave={
              reading === "operations" || reading === "lines"
                ? (shape) =>
                    download(`/api/sheets/table/${shape}`, asRows(`${head.part} ${reading}`, rows, columns)).catch(
                      (error: Error) => say(error.message, { bad: true }),
                    )
                : null
            }
            refusedBatch={refusedField(null, "batch")}
            onBatch={(batch) =>
              editOutsideGrid([
                { table: "sheet", id: null, before: { batch: view.sheet.batch }, after: { batch: typed(batch) } },
              ])
            }
            onTotal={() => setWhole(true)}
          />
          <div className="mr-3.5 flex min-h-0 flex-1 flex-col">
            {(reading === "parts" || reading === "top") && (
              <SummedList
                view={view}
                topOnly={reading === "top"}
                onPart={(p) => (p.kind === "made" ? navigate(sheetAddress(p.number, basis)) : setPart(p.number))}
              />
            )}
            {reading === "tree" && (
              <TreePicture
                model={model}
                onPart={(p) => (p.kind === "made" ? navigate(sheetAddress(p.number, basis)) : setPart(p.number))}
              />
            )}
            {reading === "time" && (
              <TimeChart
                sheet={head.id}
                state={stateOf(view)}
                basis={basis}
                onPart={(number) => {
                  const p = view.parts.find((other) => other.number === number);
                  p?.kind === "made" ? navigate(sheetAddress(number, basis)) : setPart(number);
                }}
              />
            )}
            {reading === "cost" && <CostQuestions view={view} basis={basis} revisions={revisions} />}
            {reading === "lines" && offLines > 0 && (
              <p className="noprint pb-1.5 text-ink-2">
                {offLines} {offLines === 1 ? "line is" : "lines are"} kept off this list
                <Button look="quiet" className="!min-h-0" onClick={() => setKeptOff(!keptOff)}>
                  {keptOff ? "hide" : "show"}
                </Button>
              </p>
            )}
            {(reading === "operations" || reading === "lines") && (
              <SheetGrid
                ref={grid}
                rows={rows}
                columns={columns}
                columnSet={columnSet}
                view={view}
                total={top.cost ?? 0}
                cursor={cursor}
                editing={editing}
                editable={editable}
                centers={centers}
                units={units}
                findings={findings}
                chosen={chosenKeys}
                onExtend={extend}
                onCopy={copy}
                onPaste={paste}
                onDropLine={drop}
                onCursor={place}
                onEdit={setEditing}
                onKeep={keep}
                onToggle={toggle}
                onKey={key}
              />
            )}
          </div>
        </div>
        <aside className="flex min-h-0 flex-col gap-3 border-l border-hair bg-paper px-4 pt-3.5 pb-3">
          <div className="min-h-0 flex-1 overflow-y-auto pt-1 pr-1">
            {reading === "cost" ? (
              <RankedInputs sheet={head.id} state={stateOf(view)} basis={basis} onBasis={changeBasis} />
            ) : aside === "pasted" && pasted !== null ? (
              <PastePanel
                panel={side}
                sheet={head.id}
                text={pasted}
                onKeep={(values) => {
                  keepPasted(values);
                  setAside("working");
                  grid.current?.focus();
                }}
                onClose={closeAside}
              />
            ) : aside === "findings" ? (
              <SheetFindings
                panel={side}
                findings={findings}
                sheet={head.id}
                onLine={(line) => {
                  place({ row: `/${line}`, column: "part" });
                  grid.current?.focus();
                }}
                onClose={closeAside}
              />
            ) : aside === "order" ? (
              <OrderOfWork
                panel={side}
                operations={model.operations.get(view.top) ?? []}
                current={operation?.id ?? null}
                editable={editable}
                onSelect={(o) => o.id !== operation?.id && place({ row: `/${o.id}`, column: "name" })}
                onFollow={(o, after) => editOutsideGrid(setOperation(o, { after }))}
                onClose={closeAside}
              />
            ) : aside === "instructions" && operation ? (
              <Instructions
                key={operation.id}
                panel={side}
                part={head.part}
                operation={operation}
                editable={editable && operation.parent === view.top}
                refused={(refusedField(operation.id, "instructions") ?? refusedField(operation.id, "files"))?.message}
                onSet={(after) => editOutsideGrid(setOperation(operation, after))}
                onClose={closeAside}
              />
            ) : aside === "measured" && operation ? (
              <Measured
                panel={side}
                operation={operation}
                editable={editable && operation.parent === view.top}
                onSet={(after) => editOutsideGrid(setOperation(operation, after))}
                onClose={closeAside}
              />
            ) : aside === "details" && row && (row.kind === "line" || row.kind === "band") ? (
              <Details
                panel={side}
                view={view}
                row={row}
                editable={editable}
                head={
                  row.kind === "band" && (
                    <OperationHead
                      key={row.operation.id}
                      view={view}
                      operation={row.operation}
                      editable={editable && row.own}
                      onAside={setAside}
                      onSet={(after) => editOutsideGrid(setOperation(row.operation, after))}
                    />
                  )
                }
                refused={(field) => refusedField(row.kind === "line" ? row.line.id : row.operation.id, field)}
                centers={centers}
                onSet={(after) =>
                  editOutsideGrid(
                    row.kind === "line" ? setLine(view, row.line, after) : setOperation(row.operation, after),
                  )
                }
                onClose={closeAside}
              />
            ) : (
              <WorkingPanel
                panel={side}
                sheet={head.id}
                state={stateOf(view)}
                basis={basis}
                figure={view.problem ? null : figure}
                onLeave={() => grid.current?.focus()}
              />
            )}
          </div>
          {aside === "working" && reading !== "cost" && <Rings model={model} onEntered={onEntered} />}
        </aside>
      </div>
      <StaleDialog stale={sheet.stale?.answer ?? null} onSettle={sheet.settle} />
      {verb === "history" && <HistoryPanel sheet={head} onClose={() => setVerb(null)} />}
      {verb === "options" && <OptionsPanel may={may} onClose={() => setVerb(null)} />}
      {verb === "renumber" && <RenumberPanel model={model} onKeep={sheet.edit} onClose={() => setVerb(null)} />}
      {verb === "library" && <LibraryPanel onKeep={keepPasted} onClose={() => setVerb(null)} />}
      {verb === "bring" && <BringOperations part={head.part} onKeep={bring} onClose={() => setVerb(null)} />}
      {verb === "numbers" && <PartNumbersPanel sheet={head.id} part={head.part} onClose={() => setVerb(null)} />}
      {verb && isVerb(verb) && (
        <RevisionPanel
          verb={verb}
          sheet={{ ...head, version: view.sheet.version }}
          revisions={revisions}
          onShow={onShow}
          onClose={() => setVerb(null)}
        />
      )}
      {part && <PartPanel number={part} onClose={() => setPart(null)} />}
    </div>
  );
}
