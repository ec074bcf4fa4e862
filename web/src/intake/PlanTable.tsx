import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef, useState } from "react";
import type { Schemas } from "../lib/api";

const GRID = "grid grid-cols-[50px_minmax(150px,200px)_1fr_70px_44px_76px_minmax(240px,1.4fr)] items-center gap-3 px-3";

/** Every row of the list with what it will become, what stops it and what is worth a look. */
export function PlanTable({
  plan,
  error,
  stale,
  refused,
}: {
  plan?: Schemas["PlanOut"];
  error?: string;
  stale: boolean;
  refused?: string;
}) {
  const [onlyStops, setOnlyStops] = useState(false);
  const rows = useMemo(
    () => (plan?.rows ?? []).filter((row) => !onlyStops || row.problems.length > 0 || row.looks.length > 0),
    [plan, onlyStops],
  );
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: (i) => 30 + ((rows[i]?.problems.length ?? 0) + (rows[i]?.looks.length ?? 0)) * 18,
    overscan: 12,
  });
  const looks = plan?.rows.filter((row) => row.looks.length > 0).length ?? 0;
  return (
    <section
      aria-label="What it becomes"
      aria-busy={stale}
      className={`flex min-h-0 flex-1 flex-col ${stale ? "opacity-70" : ""}`}
    >
      <div className="flex items-baseline gap-4 py-1" aria-live="polite">
        <h2 className="text-[15px] font-semibold">What it becomes</h2>
        {error ? (
          <span role="alert" className="text-bad">
            {error}
          </span>
        ) : (
          plan && (
            <>
              <span>
                {plan.rows.length} rows; {plan.new_parts} new {plan.new_parts === 1 ? "part" : "parts"}; draft sheets:{" "}
                {plan.sheets.slice(0, 4).join("; ") || "none"}
                {plan.sheets.length > 4 ? ` and ${plan.sheets.length - 4} more` : ""}
              </span>
              {plan.stops > 0 && <b className="text-bad">{plan.stops} to mend before it can be saved</b>}
              {looks > 0 && <span className="text-brass">{looks} to look at</span>}
              {(plan.stops > 0 || looks > 0) && (
                <label className="flex items-center gap-1.5">
                  <input type="checkbox" checked={onlyStops} onChange={(e) => setOnlyStops(e.target.checked)} /> only
                  these
                </label>
              )}
            </>
          )
        )}
      </div>
      {(plan?.problems.length ?? 0) > 0 && !error && (
        <ul className="text-bad">
          {plan?.problems.map((text) => (
            <li key={text}>{text}</li>
          ))}
        </ul>
      )}
      {refused && (
        <p role="alert" className="text-bad">
          {refused}
        </p>
      )}
      <div
        ref={box}
        tabIndex={0}
        role="group"
        aria-label="Rows"
        className="min-h-0 flex-1 overflow-y-auto border-t border-ink bg-paper"
      >
        <div className={`${GRID} sticky top-0 z-10 h-7 border-b border-hair-2 bg-paper text-[12px] text-ink-2`}>
          <span className="text-right">Row</span>
          <span>Part</span>
          <span>Description</span>
          <span className="text-right">Quantity</span>
          <span>Unit</span>
          <span className="text-right">Unit cost</span>
          <span>Becomes</span>
        </div>
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((item) => {
            const row = rows[item.index]!;
            return (
              <div
                key={row.row}
                className={`${GRID} absolute inset-x-0 border-b border-hair ${row.problems.length > 0 ? "bg-bad-tint" : ""}`}
                style={{ transform: `translateY(${item.start}px)`, height: item.size }}
              >
                <span className="text-right text-ink-3">{row.row}</span>
                <span className="pn truncate" style={{ paddingLeft: Math.min(row.level, 8) * 12 }}>
                  {row.part || "–"}
                </span>
                <span className="truncate">{row.description}</span>
                <span className="text-right">{row.quantity ?? "–"}</span>
                <span className="text-ink-3">{row.unit ?? ""}</span>
                <span className="text-right text-ink-2">{row.unit_cost ?? ""}</span>
                <span className="min-w-0">
                  <span className={`block truncate ${row.new ? "text-blue" : "text-ink-2"}`}>{row.becomes}</span>
                  {row.problems.map((text) => (
                    <span key={text} className="block truncate text-[12px] font-semibold text-bad" title={text}>
                      {text}
                    </span>
                  ))}
                  {row.looks.map((text) => (
                    <span key={text} className="block truncate text-[12px] text-brass" title={text}>
                      {text}
                    </span>
                  ))}
                </span>
              </div>
            );
          })}
        </div>
      </div>
    </section>
  );
}
