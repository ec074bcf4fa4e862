import {
  type ColumnDef,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  type SortingState,
  useReactTable,
} from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { Button } from "./Button";
import { ColumnSets } from "./ColumnSets";
import { type DataColumn, isShown, kept, ownLast, sumsOf, sumText, useHidden } from "./dataColumns";
import { download } from "./download";
import { Menu, MenuCheck, MenuItem, MenuLine } from "./Menu";
import { useSay } from "./Says";

/** The first column stays when the others are moved sideways. */
const FIRST = "sticky left-0 z-[1] -ml-3 bg-paper pl-3";

type Shown<R> = { row: R } | { group: string; count: number; sums: Record<string, number> };

/**
 * A list to read: sorted by its headings, filtered, grouped, with totals, any number of rows; it leaves as a file just
 * as it stands.
 */
export function DataTable<R>({
  name,
  title,
  columns,
  rows,
  sort,
  beside,
  keptOff,
  onOpen,
  onOwn,
}: {
  /** What kind of list it is; its columns are remembered by it. */
  name: string;
  /** The title of the file it leaves as. */
  title: string;
  columns: DataColumn<R>[];
  rows: R[];
  sort?: { key: string; down: boolean };
  /** Rows that are left out unless asked for. */
  keptOff?: (row: R) => boolean;
  /** Stands before the controls. */
  beside?: ReactNode;
  onOpen?: (row: R) => void;
  /** Is told which own columns are shown, so that only what they say is fetched. */
  onOwn?: (keys: string[]) => void;
}) {
  const [sorting, setSorting] = useState<SortingState>(sort ? [{ id: sort.key, desc: sort.down }] : []);
  const [filter, setFilter] = useState("");
  const [groupBy, setGroupBy] = useState("");
  const [hidden, setHidden] = useHidden(
    name,
    columns.flatMap((c) => (c.off ? [c.key] : [])),
  );
  const turn = (column: DataColumn<R>) => {
    const key = kept(column);
    setHidden(hidden.has(key) ? [...hidden].filter((k) => k !== key) : [...hidden, key]);
  };
  const [all, setAll] = useState(false);
  const say = useSay();
  const box = useRef<HTMLDivElement>(null);
  const shownColumns = columns.filter((c) => isShown(c, hidden));
  const own = shownColumns.flatMap((c) => (c.own ? [c.key] : [])).join("\n");
  useEffect(() => onOwn?.(own === "" ? [] : own.split("\n")), [own, onOwn]);
  const defs = useMemo<ColumnDef<R>[]>(
    () =>
      columns.map((c) => ({
        id: c.key,
        accessorFn: (row) => c.value(row),
        sortUndefined: "last",
        sortingFn: c.letters ? "text" : "auto",
      })),
    [columns],
  );
  const off = useMemo(() => (keptOff ? rows.filter(keptOff).length : 0), [rows, keptOff]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: it remembers what columns said of a row; other columns, other rows.
  const listed = useMemo(() => rows.filter((row) => all || !keptOff?.(row)), [rows, keptOff, all, defs]);
  const table = useReactTable({
    data: listed,
    columns: defs,
    state: { sorting, globalFilter: filter.trim() },
    onSortingChange: setSorting,
    autoResetAll: false,
    // Also where the first row says nothing.
    getColumnCanGlobalFilter: () => true,
    globalFilterFn: (row, id, words: string) => {
      const value = row.getValue(id);
      return value !== null && String(value).toLowerCase().includes(words.toLowerCase());
    },
    getCoreRowModel: getCoreRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  const sorted = table.getRowModel().rows;
  const grouping = columns.find((c) => c.key === groupBy);
  const visible = useMemo<Shown<R>[]>(() => {
    const plain = sorted.map((r) => r.original);
    if (!grouping) return plain.map((row) => ({ row }));
    const groups = new Map<string, R[]>();
    for (const row of plain) {
      const key = String(grouping.value(row) ?? "–");
      groups.get(key)?.push(row) ?? groups.set(key, [row]);
    }
    return [...groups].flatMap(([group, of]) => [
      { group, count: of.length, sums: sumsOf(columns, of) },
      ...of.map((row) => ({ row })),
    ]);
  }, [sorted, grouping, columns]);
  const virtual = useVirtualizer({
    count: visible.length,
    getScrollElement: () => box.current,
    estimateSize: () => 32,
    overscan: 12,
  });
  const grid = { gridTemplateColumns: shownColumns.map((c) => c.width).join(" ") };
  const totals = sumsOf(
    columns,
    sorted.map((r) => r.original),
  );
  const hasTotals = shownColumns.some((c) => c.total);
  const leave = (shape: "xlsx" | "csv") =>
    download(`/api/sheets/table/${shape}`, {
      title,
      columns: shownColumns.map((c) => ({ title: c.title, number: !!c.number, total: !!c.total && !grouping })),
      rows: visible.map((v) =>
        "row" in v
          ? shownColumns.map((c) => c.value(v.row))
          : shownColumns.map((c, i) => (i === 0 ? `${v.group} (${v.count})` : (v.sums[c.key] ?? null))),
      ),
    }).catch((error: Error) => say(error.message, { bad: true }));
  const groupable = columns.filter((c) => c.groups);
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="noprint flex flex-wrap items-center gap-2 pb-2">
        {beside}
        <span className="text-ink-2" aria-live="polite">
          {sorted.length === listed.length
            ? `${listed.length} ${listed.length === 1 ? "row" : "rows"}`
            : `${sorted.length} of ${listed.length} rows`}
        </span>
        {off > 0 && (
          <span className="text-ink-2">
            · {off} kept off
            <Button look="quiet" className="!min-h-0" onClick={() => setAll(!all)}>
              {all ? "hide" : "show"}
            </Button>
          </span>
        )}
        <span className="ml-auto flex items-center gap-1.5">
          <input
            type="search"
            className="field !min-h-[26px] !w-[170px]"
            aria-label="Keep rows that hold"
            placeholder="keep rows that hold …"
            value={filter}
            onChange={(event) => setFilter(event.target.value)}
          />
          {groupable.length > 0 && (
            <select
              className="field !min-h-[26px] !w-auto"
              aria-label="Group by"
              value={groupBy}
              onChange={(event) => setGroupBy(event.target.value)}
            >
              <option value="">not grouped</option>
              {groupable.map((c) => (
                <option key={c.key} value={c.key}>
                  by {c.title.toLowerCase()}
                </option>
              ))}
            </select>
          )}
          <Menu label="List …" className="!min-h-[26px] !px-2">
            <MenuItem onSelect={() => leave("xlsx")}>As a workbook, as it stands</MenuItem>
            <MenuItem onSelect={() => leave("csv")}>As CSV, as it stands</MenuItem>
            <MenuItem onSelect={() => window.print()}>Print</MenuItem>
            <ColumnSets
              list={name}
              hidden={hidden}
              own={columns.flatMap((c) => (c.own ? [kept(c)] : []))}
              onTake={setHidden}
            />
            <MenuLine />
            {ownLast(columns.slice(1)).map((c) => (
              <MenuCheck key={c.key} on={isShown(c, hidden)} onTurn={() => turn(c)}>
                {c.title}
              </MenuCheck>
            ))}
          </Menu>
        </span>
      </div>
      <div
        ref={box}
        role="table"
        aria-label={title}
        aria-rowcount={visible.length + 1}
        tabIndex={0}
        className="min-h-0 flex-1 overflow-auto border-t border-ink bg-paper"
      >
        <div className="w-max min-w-full">
          <div
            role="row"
            aria-rowindex={1}
            className="sticky top-0 z-10 grid h-7 min-w-full items-center gap-x-2 border-b border-hair-2 bg-paper px-3 text-[12px] text-ink-2"
            style={grid}
          >
            {shownColumns.map((c, i) => {
              const at = sorting[0]?.id === c.key ? (sorting[0].desc ? "descending" : "ascending") : "none";
              return (
                <span
                  key={c.key}
                  role="columnheader"
                  aria-sort={at}
                  className={`truncate ${c.number ? "text-right" : ""} ${i === 0 ? FIRST : ""}`}
                  title={c.title}
                >
                  <button
                    type="button"
                    className="max-w-full truncate hover:text-blue"
                    onClick={() =>
                      setSorting(
                        at === "none" ? [{ id: c.key, desc: !!c.number }] : [{ id: c.key, desc: !sorting[0]!.desc }],
                      )
                    }
                  >
                    {c.title}
                    {at === "ascending" ? " ↑" : at === "descending" ? " ↓" : ""}
                  </button>
                </span>
              );
            })}
          </div>
          <div role="rowgroup" className="relative" style={{ height: virtual.getTotalSize() }}>
            {virtual.getVirtualItems().map((item) => {
              const at = visible[item.index]!;
              const place = { ...grid, transform: `translateY(${item.start}px)` };
              const line = "absolute inset-x-0 grid h-8 items-center gap-x-2 border-b border-hair px-3";
              if ("group" in at)
                return (
                  <div
                    key={item.key}
                    role="row"
                    aria-rowindex={item.index + 2}
                    className={`${line} bg-sunk`}
                    style={place}
                  >
                    {shownColumns.map((c, i) => (
                      <span
                        key={c.key}
                        role="cell"
                        className={`font-semibold ${i === 0 ? "whitespace-nowrap" : "truncate"} ${c.number ? "text-right" : ""}`}
                      >
                        {i === 0 ? `${at.group} (${at.count})` : sumText(c, at.sums)}
                      </span>
                    ))}
                  </div>
                );
              return (
                <div key={item.key} role="row" aria-rowindex={item.index + 2} className={line} style={place}>
                  {shownColumns.map((c, i) => {
                    const content = c.show ? c.show(at.row) : c.value(at.row);
                    return (
                      <span
                        key={c.key}
                        role="cell"
                        className={`min-w-0 truncate ${c.number ? "text-right" : ""} ${i === 0 ? `h-[31px] leading-[31px] ${FIRST}` : ""}`}
                      >
                        {i === 0 && onOpen ? (
                          <button type="button" className="text-blue hover:underline" onClick={() => onOpen(at.row)}>
                            {content}
                          </button>
                        ) : (
                          content
                        )}
                      </span>
                    );
                  })}
                </div>
              );
            })}
          </div>
        </div>
      </div>
      {hasTotals && (
        <div className="grid h-8 items-center gap-x-2 border-t border-ink bg-paper px-3 font-semibold" style={grid}>
          {shownColumns.map((c, i) => (
            <span key={c.key} className={c.number ? "text-right" : ""}>
              {i === 0 ? "total" : sumText(c, totals)}
            </span>
          ))}
        </div>
      )}
    </div>
  );
}
