import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { KindMark } from "../kit/KindMark";
import { Menu, MenuItem } from "../kit/Menu";
import { useSay } from "../kit/Says";
import { addressNow } from "../lib/address";
import { answer, client, type PartOut } from "../lib/api";
import { PART_KINDS } from "../lib/declared";
import { money, quantity } from "../lib/number";
import { useMay, useReference } from "../lib/session";
import { BringRows } from "./BringRows";
import { ChangeParts } from "./ChangeParts";
import { PartPanel } from "./PartPanel";
import { Renumber } from "./Renumber";
import { useClasses, useParts } from "./useParts";

const GRID = "grid grid-cols-[20px_150px_1fr_110px_92px_100px_44px_76px_80px_76px] items-center gap-3 px-4";

/** Every part, found as one types; only the rows on screen are loaded. */
export function PartsScreen() {
  const [params, setParams] = useSearchParams();
  const [text, setText] = useState(params.get("search") ?? "");
  const [kind, setKind] = useState("");
  const [partClass, setPartClass] = useState("");
  const classes = useClasses();
  const [row, setRow] = useState(0);
  const [range, setRange] = useState<[number, number]>([0, 40]);
  const [unmodelled, setUnmodelled] = useState(false);
  // Whole, since the list may show others by the time they are copied.
  const [chosen, setChosen] = useState<Map<string, PartOut>>(new Map());
  const [verb, setVerb] = useState<"change" | "number" | null>(null);
  const [rowsIn, setRowsIn] = useState<string | null>(null);
  const search = useDeferredValue(text);
  const found = useMemo(
    () => ({ search, kind, part_class: partClass, unmodelled }),
    [search, kind, partClass, unmodelled],
  );
  const parts = useParts(found, ...range);
  const currency = useReference().data?.currency ?? "";
  const may = useMay("parts");
  const say = useSay();
  const navigate = useNavigate();
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
  useEffect(() => {
    if (!open && !making) input.current?.focus();
  }, [open, making]);
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
    const query = new URLSearchParams({ search, kind, part_class: partClass, unmodelled: String(unmodelled) });
    window.location.assign(`/api/parts/list/${shape}?${query}`);
  };
  const copyRows = () => {
    const copied: string[] = [
      ["Part number", "Description", "Class", "Kind", "Unit", "Unit cost", "Lifecycle"].join("\t"),
    ];
    for (const part of chosen.values())
      copied.push(
        [part.number, part.description, part.part_class, part.kind, part.unit, part.unit_cost ?? "", part.lifecycle]
          .map((cell) => cell.replace(/[\t\n\r]+/g, " "))
          .join("\t"),
      );
    navigator.clipboard
      .writeText(copied.join("\n"))
      .then(() => say(`Copied ${copied.length - 1} rows with their header.`))
      .catch(() => say("The browser does not let this page copy.", { bad: true }));
  };
  const numbers = useQuery({
    queryKey: ["numbers-by-class", [...chosen.keys()]],
    queryFn: () => answer(client.POST("/api/parts/numbers-by-class", { body: { parts: [...chosen.keys()] } })),
    enabled: verb === "number",
    staleTime: 0,
  });
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
        <select
          className="field max-w-[130px]"
          aria-label="Kind"
          value={kind}
          onChange={(e) => setKind(e.target.value)}
        >
          <option value="">every kind</option>
          {Object.keys(PART_KINDS).map((k) => (
            <option key={k}>{k}</option>
          ))}
        </select>
        {classes.length > 0 && (
          <select
            className="field max-w-[150px]"
            aria-label="Class"
            value={partClass}
            onChange={(e) => setPartClass(e.target.value)}
          >
            <option value="">every class</option>
            {classes.map((c) => (
              <option key={c.name}>{c.name}</option>
            ))}
          </select>
        )}
        <label className="flex items-center gap-1.5 whitespace-nowrap" title="Glue, grease, paint, labels, packaging">
          <input type="checkbox" checked={unmodelled} onChange={() => setUnmodelled(!unmodelled)} />
          on no drawing
        </label>
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
            <MenuItem needs="intake" onSelect={() => navigate("/intake")}>
              Bring in a bill of materials …
            </MenuItem>
            <MenuItem onSelect={() => navigate("/parts/classes")}>Classes, their fields and numbers</MenuItem>
          </Menu>
          <Button needs="parts" look="strong" onClick={() => set({ new: "1" })}>
            New part
          </Button>
        </span>
      </div>
      {chosen.size > 0 && (
        <div role="toolbar" aria-label="Chosen parts" className="flex items-center gap-2 pb-2">
          <b aria-live="polite">
            {chosen.size} {chosen.size === 1 ? "part" : "parts"} chosen
          </b>
          <Button needs="parts" onClick={() => setVerb("change")}>
            Change a field …
          </Button>
          <Button needs="parts" onClick={() => setVerb("number")}>
            Give numbers …
          </Button>
          <Button onClick={copyRows}>Copy rows</Button>
          <Button look="quiet" onClick={() => setChosen(new Map())}>
            choose none
          </Button>
        </div>
      )}
      {parts.error && (
        <p role="alert" className="text-bad">
          {parts.error.message}
        </p>
      )}
      {!parts.pending && parts.total === 0 ? (
        <Empty
          title={search || kind || partClass || unmodelled ? "No part goes by these words" : "No parts yet"}
          action={
            <Button needs="parts" look="strong" onClick={() => set({ new: "1" })}>
              Make the first part
            </Button>
          }
        >
          {search || kind || partClass || unmodelled
            ? "Every word must stand in the number or the description."
            : "Make a part here, bring in a list made elsewhere, or type new numbers straight into a build sheet."}
        </Empty>
      ) : (
        <div className="flex min-h-0 flex-1 flex-col border-t border-ink bg-paper">
          <div className={`${GRID} h-7 shrink-0 border-b border-hair-2 text-[12px] text-ink-2`} aria-hidden="true">
            <span />
            <span>Part</span>
            <span>Description</span>
            <span>Class</span>
            <span>Kind</span>
            <span className="text-right">Unit cost, {currency}</span>
            <span>Unit</span>
            <span className="text-right">On hand</span>
            <span className="text-right">Costing lot</span>
            <span>Lifecycle</span>
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
                    style={{ transform: `translateY(${item.start}px)` }}
                    onClick={(event) => {
                      setRow(item.index);
                      if ((event.target as HTMLElement).closest("[data-choose]")) choose(part);
                      else if (part) set({ part: part.number });
                    }}
                  >
                    {part ? (
                      <>
                        <span data-choose className="-m-2 flex justify-center p-2" title="Choose (Space)">
                          <span
                            aria-hidden="true"
                            className={`h-3.5 w-3.5 border text-center text-[11px] leading-[13px] ${chosen.has(part.number) ? "border-blue bg-blue text-paper" : "border-hair-2"}`}
                          >
                            {chosen.has(part.number) ? "✓" : ""}
                          </span>
                        </span>
                        <span className="pn truncate">{part.number}</span>
                        <span className="truncate">{part.description}</span>
                        <span className="truncate text-ink-2">{part.part_class}</span>
                        <KindMark kind={part.kind} />
                        <span className="text-right">
                          {part.given_cost !== null ? (
                            <span title={part.given_reason || "cost given by hand"}>
                              {money(Number(part.given_cost))} by hand
                            </span>
                          ) : part.markup_percent !== null ? (
                            <span title={part.given_reason}>{quantity(part.markup_percent)} % by hand</span>
                          ) : part.kind === "bought" || part.kind === "charge" ? (
                            part.unit_cost === null ? (
                              <span className="text-brass">missing</span>
                            ) : (
                              money(Number(part.unit_cost))
                            )
                          ) : (
                            <span className="text-ink-3">{part.sheets ? "rolled up" : "no sheet"}</span>
                          )}
                        </span>
                        <span className="text-ink-3">{part.unit}</span>
                        <span className="text-right">{part.on_hand === null ? "" : quantity(part.on_hand)}</span>
                        <span className="text-right">
                          {part.kind === "made" ? quantity(part.costing_lot ?? "1") : ""}
                        </span>
                        <span className="text-ink-2">{part.lifecycle.replace("_", " ")}</span>
                      </>
                    ) : (
                      <span className="text-ink-3">…</span>
                    )}
                  </div>
                );
              })}
            </div>
          </div>
        </div>
      )}
      {rowsIn !== null && <BringRows key={rowsIn} pasted={rowsIn} onClose={() => setRowsIn(null)} />}
      {verb === "change" && (
        <ChangeParts
          numbers={[...chosen.keys()]}
          onClose={(saved) => {
            setVerb(null);
            if (saved) setChosen(new Map());
          }}
        />
      )}
      {verb === "number" && (
        <Renumber
          note="The next numbers of their classes; the old ones stay in the descriptions."
          rows={numbers.data}
          error={numbers.error}
          onClose={(saved) => {
            setVerb(null);
            if (saved) setChosen(new Map());
          }}
        />
      )}
      {(open || making) && (
        <PartPanel
          key={open ?? "new"}
          number={making ? null : open}
          onClose={(saved) => {
            set({ part: null, new: null });
            if (saved && making && (saved.kind === "made" || saved.kind === "phantom"))
              navigate(`/sheets/${encodeURIComponent(saved.number)}`);
          }}
        />
      )}
    </div>
  );
}
