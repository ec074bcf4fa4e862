import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef } from "react";
import type { Schemas } from "../lib/api";

/** What rows would make of parts: new ones, changed fields from and to, and what stands against it. */
export function PlannedRows({ rows }: { rows: Schemas["RowPreview"][] }) {
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => 44,
    overscan: 8,
    measureElement: (element) => element.getBoundingClientRect().height,
  });
  return (
    <div
      ref={box}
      role="list"
      tabIndex={0}
      aria-label="What is to be saved"
      className="min-h-[120px] flex-1 overflow-y-auto border-t border-ink"
    >
      <div className="relative" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map((item) => {
          const row = rows[item.index]!;
          return (
            <div
              key={item.key}
              ref={virtual.measureElement}
              data-index={item.index}
              role="listitem"
              className="absolute inset-x-0 border-b border-hair py-1"
              style={{ transform: `translateY(${item.start}px)` }}
            >
              <span className="pn">{row.number}</span> {!row.known && <span className="text-blue">new</span>}
              {row.known && row.changes.length === 0 && row.problems.length === 0 && (
                <span className="text-ink-3">as it is</span>
              )}
              {row.changes.map((change) => (
                <span key={change.field} className="block pl-3 text-[12px]">
                  <span className="text-ink-2">{change.field}</span> {change.before || "–"} → {change.after || "–"}
                </span>
              ))}
              {row.problems.map((problem) => (
                <span key={problem} className="block pl-3 text-[12px] font-semibold text-bad">
                  {problem}
                </span>
              ))}
            </div>
          );
        })}
      </div>
    </div>
  );
}
