import { useVirtualizer } from "@tanstack/react-virtual";
import { useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { type Command, useCommands } from "../kit/commands";
import { Empty } from "../kit/Empty";
import { Menu, MenuItem } from "../kit/Menu";
import { useSay } from "../kit/Says";
import { addressNow } from "../lib/address";
import type { PartOut } from "../lib/api";
import { quantity } from "../lib/number";
import { useMay, useReference } from "../lib/session";
import { PartPanel } from "../pieces/parts/PartPanel";
import { isNumber, useClasses, useParts } from "../pieces/parts/useParts";
import { BringRows } from "./BringRows";
import { ChosenParts } from "./ChosenParts";
import { PartCells } from "./PartCells";
import { type Filters, PartFilters } from "./PartFilters";

const GRID = "grid items-center gap-3 px-4";
/** Of a class as many of its fields as have room. */
const MOST_OWN = 5;

const KEYS: Command[] = [
  { keys: "ArrowUp ArrowDown", words: "move through the list" },
  { keys: "Enter", words: "open the part" },
  { keys: "Space", words: "choose the part, or no longer" },
  { keys: "Shift ArrowUp ArrowDown", words: "choose several" },
  { keys: "Ctrl V", words: "bring in rows of a spreadsheet" },
  { keys: "N", words: "make a part" },
];

/** Every part, found as one types; only the rows on screen are loaded. */
export function PartsScreen() {
  const [params, setParams] = useSearchParams();
  useCommands(KEYS);
  const [text, setText] = useState(params.get("search") ?? "");
  const [filters, setFilters] = useState<Filters>({
    kind: "",
    part_class: params.get("class") ?? "",
    unmodelled: false,
  });
  const [row, setRow] = useState(0);
  const [range, setRange] = useState<[number, number]>([0, 40]);
  // Whole, since the list may show others by the time they are copied.
  const [chosen, setChosen] = useState<Map<string, PartOut>>(new Map());
  const [rowsIn, setRowsIn] = useState<string | null>(null);
  const search = useDeferredValue(text);
  const found = useMemo(() => ({ search, ...filters }), [search, filters]);
  const parts = useParts(found, ...range);
  const currency = useReference().data?.currency ?? "";
  const may = useMay("parts");
  const say = useSay();
  const navigate = useNavigate();
  const classes = useClasses();
  const own = classes.find((c) => c.name === filters.part_class)?.fields.slice(0, MOST_OWN) ?? [];
  const columns = {
    gridTemplateColumns:
      own.length > 0
        ? `20px 140px minmax(150px,1fr) ${own.map(() => "minmax(50px,84px)").join(" ")} 80px 96px 36px 64px`
        : "20px 150px minmax(150px,1fr) 110px 92px 100px 44px 76px 80px 76px",
  };
  const box = useRef<HTMLDivElement>(null);
  const input = useRef<HTMLInputElement>(null);
  const rows = useVirtualizer({
    count: parts.total,
    getScrollElement: () => box.current,
    estimateSize: () => 32,
    overscan: 12,
    onChange: (v) => {
      const shown = v.getVirtualItems();
      const next: [number, number] = [shown[0]?.index ?? 0, shown.at(-1)?.index ?? 0];
      setRange((old) => (old[0] === next[0] && old[1] === next[1] ? old : next));
    },
  });
  const open = params.get("part");
  const making = params.has("new");
  const set = (change: Record<string, string | null>) =>
    setParams(() => {
      const next = addressNow();
      for (const [name, value] of Object.entries(change)) value === null ? next.delete(name) : next.set(name, value);
      return next;
    });
  const move = (to: number) => {
    const next = Math.max(0, Math.min(parts.total - 1, to));
    setRow(next);
    rows.scrollToIndex(next);
  };
  const asked = params.get("class");
  // From the search to a class, wherever one stands.
  useEffect(() => {
    if (asked !== null) setFilters((old) => ({ ...old, part_class: asked }));
  }, [asked]);
  useEffect(() => {
    if (!open && !making) input.current?.focus();
  }, [open, making]);
  const narrowed = !!(search || filters.kind || filters.part_class || filters.unmodelled);
  const at = parts.at(row);
  const choose = (part: PartOut | undefined, on?: boolean) =>
    part &&
    setChosen((old) => {
      const next = new Map(old);
      (on ?? !next.has(part.number)) ? next.set(part.number, part) : next.delete(part.number);
      return next;
    });
  const leave = (shape: "xlsx" | "csv") => {
    if (parts.total > 20_000) {
      say("A list leaves with at most 20 000 parts; find fewer first.", { bad: true });
      return;
    }
    const query = new URLSearchParams({ search, ...filters, unmodelled: String(filters.unmodelled) });
    window.location.assign(`/api/parts/list/${shape}?${query}`);
  };
  useEffect(() => {
    const paste = (event: ClipboardEvent) => {
      if (!may || (event.target as HTMLElement).closest?.("input, textarea, [role=dialog]")) return;
      const rows = event.clipboardData?.getData("text/plain") ?? "";
      if (!rows.trim()) return;
      event.preventDefault();
      setRowsIn(rows);
    };
    document.addEventListener("paste", paste);
    return () => document.removeEventListener("paste", paste);
  }, [may]);

  return (
    <div className="flex h-full flex-col px-4 pt-3">
      <div className="flex items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">Parts</h1>
        <input
          ref={input}
          className="field ml-1 max-w-[300px]"
          type="search"
          aria-label="Find by number or description"
          aria-controls="parts-list"
          placeholder="Number or words of the description"
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            setRow(0);
            rows.scrollToOffset(0);
          }}
          onKeyDown={(event) => {
            if (event.key === "ArrowDown") {
              // Else the list, once focused, would scroll by the same key.
              event.preventDefault();
              box.current?.focus();
            }
            if (event.key === "Enter" && parts.at(0)) set({ part: parts.at(0)!.number });
          }}
        />
        <PartFilters filters={filters} onChange={setFilters} />
        <span className="text-ink-2" aria-live="polite">
          {quantity(parts.total)} {parts.total === 1 ? "part" : "parts"}
        </span>
        <span className="ml-auto flex gap-2">
          <Menu label="List …">
            <MenuItem onSelect={() => leave("xlsx")}>As a workbook, as found</MenuItem>
            <MenuItem onSelect={() => leave("csv")}>As CSV, as found</MenuItem>
            <MenuItem needs="parts" onSelect={() => setRowsIn("")}>
              Bring in rows or a part list …
            </MenuItem>
            <MenuItem needs="inquiries" onSelect={() => navigate("/inquiries?new=1&own=1")}>
              Bring in a bill of materials …
            </MenuItem>
            <MenuItem onSelect={() => navigate("/parts/classes")}>Classes, their fields and numbers</MenuItem>
          </Menu>
          <Button needs="parts" look="strong" onClick={() => set({ new: "1" })}>
            New part
          </Button>
        </span>
      </div>
      <ChosenParts chosen={chosen} onNone={() => setChosen(new Map())} />
      {parts.error && (
        <p role="alert" className="text-bad">
          {parts.error.message}
        </p>
      )}
      {!parts.pending && parts.total === 0 ? (
        <Empty
          title={narrowed ? "No part goes by these words" : "No parts yet"}
          action={
            <Button needs="parts" look="strong" onClick={() => set({ new: "1" })}>
              {narrowed ? "Make a part" : "Make the first part"}
            </Button>
          }
        >
          {narrowed
            ? "Every word must stand in the number, the description or a field of its class."
            : "Make a part here, bring in a list made elsewhere, or type new numbers straight into a build sheet."}
        </Empty>
      ) : (
        <div className="flex min-h-0 flex-1 flex-col border-t border-ink bg-paper">
          <div
            className={`${GRID} h-7 shrink-0 border-b border-hair-2 text-[12px] text-ink-2`}
            style={columns}
            aria-hidden="true"
          >
            <span />
            <span>Part</span>
            <span>Description</span>
            {own.length === 0 && <span>Class</span>}
            {own.map((field) => (
              <span
                key={field.name}
                className={`truncate ${isNumber(field) ? "text-right" : ""}`}
                title={[field.name, field.unit].filter(Boolean).join(", ")}
              >
                {field.name.replaceAll("_", " ")}
              </span>
            ))}
            <span>Kind</span>
            <span className="text-right">Unit cost, {currency}</span>
            <span>Unit</span>
            <span className="text-right">On hand</span>
            {own.length === 0 && <span className="text-right">Costing lot</span>}
            {own.length === 0 && <span>Lifecycle</span>}
          </div>
          <div
            ref={box}
            id="parts-list"
            role="listbox"
            aria-multiselectable="true"
            tabIndex={0}
            aria-label="Parts"
            aria-activedescendant={at ? `part-${row}` : undefined}
            className="min-h-0 flex-1 overflow-y-auto focus-visible:outline-offset-[-2px]"
            onKeyDown={(event) => {
              const steps: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 18, PageUp: -18 };
              if (event.key in steps) {
                event.preventDefault();
                if (event.shiftKey) choose(at, true);
                move(row + steps[event.key]!);
                if (event.shiftKey)
                  choose(parts.at(Math.max(0, Math.min(parts.total - 1, row + steps[event.key]!))), true);
              } else if (event.key === " ") {
                event.preventDefault();
                choose(at);
              } else if (event.key === "Escape") setChosen(new Map());
              else if (event.key === "Home") move(0);
              else if (event.key === "End") move(parts.total - 1);
              else if (event.key === "Enter" && at) set({ part: at.number });
              else if (event.key.toLowerCase() === "n" && may) {
                event.preventDefault();
                set({ new: "1" });
              } else if (event.key === "/") {
                event.preventDefault();
                input.current?.focus();
              }
            }}
          >
            <div className="relative" style={{ height: rows.getTotalSize() }}>
              {rows.getVirtualItems().map((item) => {
                const part = parts.at(item.index);
                return (
                  // biome-ignore lint/a11y/useKeyWithClickEvents: the list takes the keys for all its rows
                  <div
                    key={item.key}
                    id={`part-${item.index}`}
                    role="option"
                    tabIndex={-1}
                    aria-selected={!!part && chosen.has(part.number)}
                    aria-posinset={item.index + 1}
                    aria-setsize={parts.total}
                    className={`${GRID} absolute inset-x-0 h-8 border-b border-hair ${item.index === row ? "bg-blue-tint" : ""}`}
                    style={{ ...columns, transform: `translateY(${item.start}px)` }}
                    onClick={(event) => {
                      setRow(item.index);
                      const mark = (event.target as HTMLElement).closest("[data-choose]");
                      if (mark || event.ctrlKey || event.metaKey) choose(part);
                      else if (part) set({ part: part.number });
                    }}
                  >
                    {part && <PartCells part={part} chosen={chosen.has(part.number)} own={own} />}
                    {!part && <span className="text-ink-3">…</span>}
                  </div>
                );
              })}
            </div>
          </div>
        </div>
      )}
      {rowsIn !== null && <BringRows key={rowsIn} pasted={rowsIn} onClose={() => setRowsIn(null)} />}
      {(open || making) && (
        <PartPanel
          key={open ?? "new"}
          number={making ? null : open}
          kind={params.get("kind")}
          onClose={(saved) => {
            set({ part: null, new: null, kind: null });
            if (saved && making && (saved.kind === "made" || saved.kind === "phantom"))
              navigate(`/sheets/${encodeURIComponent(saved.number)}`);
          }}
        />
      )}
    </div>
  );
}
