import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef } from "react";
import type { Schemas } from "../lib/api";
import { day, money } from "../lib/number";

type Compared = Schemas["Compared"];

const GRID = "grid grid-cols-[104px_64px_150px_1fr_96px_96px_96px] items-start gap-x-3 px-3";

const STATE: Record<string, string> = {
  same: "agrees",
  changed: "changed",
  "only left": "taken out",
  "only right": "added",
};

const WORDS: Record<string, string> = {
  after: "follows",
  issue_at: "taken at",
  not_fitted: "not fitted",
};

function words(field: string): string {
  return WORDS[field] ?? field.replaceAll("_", " ");
}

function said(value: string | null): string {
  if (value === null) return "nothing";
  return /^\d{4}-\d\d-\d\d$/.test(value) ? day(value) : value;
}

function Cost({ value }: { value: number | null | undefined }) {
  return <span className="text-right">{value === null || value === undefined ? "" : money(value)}</span>;
}

/** The rows of a comparison; what agrees is left out unless it is asked for or costs something else. */
export function ComparedTable({ rows, all, from, to }: { rows: Compared[]; all: boolean; from: string; to: string }) {
  const box = useRef<HTMLDivElement>(null);
  const shown = all ? rows : rows.filter((row) => row.state !== "same" || Math.abs(row.effect) > 5e-7);
  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => box.current,
    estimateSize: (i) => 32 + Math.max(0, (shown[i]?.fields.length ?? 1) - 1) * 22,
    overscan: 10,
  });
  return (
    <div className="mx-4 mb-3 flex min-h-0 flex-1 flex-col border-t border-ink bg-paper">
      <div
        ref={box}
        role="table"
        aria-label="What differs"
        aria-rowcount={shown.length + 1}
        tabIndex={0}
        className="min-h-0 flex-1 overflow-y-auto"
      >
        <div
          role="row"
          aria-rowindex={1}
          className={`${GRID} sticky top-0 z-10 h-7 border-b border-hair-2 bg-paper pt-1 text-[12px] text-ink-2`}
        >
          <span role="columnheader">Row</span>
          <span role="columnheader">Place</span>
          <span role="columnheader">Part or operation</span>
          <span role="columnheader">What differs</span>
          <span role="columnheader" className="truncate text-right" title={from}>
            {from}
          </span>
          <span role="columnheader" className="truncate text-right" title={to}>
            {to}
          </span>
          <span role="columnheader" className="text-right">
            Effect
          </span>
        </div>
        <div role="rowgroup" className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((item) => {
            const row = shown[item.index]!;
            const at = row.right ?? row.left;
            return (
              <div
                key={item.key}
                data-index={item.index}
                ref={virtual.measureElement}
                role="row"
                aria-rowindex={item.index + 2}
                className={`${GRID} absolute inset-x-0 min-h-8 border-b border-hair py-[5px]`}
                style={{ transform: `translateY(${item.start}px)` }}
              >
                <span role="cell" className={row.state === "same" ? "text-ink-3" : "font-semibold text-blue"}>
                  {STATE[row.state]}
                </span>
                <span role="cell" className="text-ink-2">
                  {row.table === "sheet" ? "" : (at?.place ?? "")}
                </span>
                <span role="cell" className="min-w-0">
                  {row.table === "sheet" ? (
                    "the sheet"
                  ) : (
                    <span className={row.table === "line" ? "pn" : "font-semibold"}>{at?.name}</span>
                  )}
                </span>
                <span role="cell" className="min-w-0">
                  {row.fields.map((field) => (
                    <span key={field.name} className="block">
                      <span className="text-ink-2">{words(field.name)}</span>{" "}
                      <s className="text-ink-3">{said(field.left)}</s> → <b>{said(field.right)}</b>
                    </span>
                  ))}
                  {row.fields.length === 0 && (
                    <span className="text-ink-3">
                      {row.state === "same" && Math.abs(row.effect) > 5e-7
                        ? "the same here; what it takes costs something else"
                        : at?.more}
                    </span>
                  )}
                </span>
                <span role="cell" className="text-right">
                  <Cost value={row.left?.cost} />
                </span>
                <span role="cell" className="text-right">
                  <Cost value={row.right?.cost} />
                </span>
                <b role="cell" className="text-right font-semibold">
                  {Math.abs(row.effect) > 5e-7 ? `${row.effect > 0 ? "+" : ""}${money(row.effect)}` : ""}
                </b>
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}
