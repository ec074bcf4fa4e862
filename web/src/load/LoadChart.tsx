import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, useRef } from "react";
import type { Schemas } from "../lib/api";
import { day, quantity } from "../lib/number";

export interface Cell {
  center: string;
  week: string;
}

type Load = Schemas["LoadOut"];

const TALL = 50;
const NAMES = 210;
const BAR = 36;

/** A row for each work center, a column for each week; what is over stands above the line. */
export function LoadChart({ load, cell, onCell }: { load: Load; cell: Cell | null; onCell: (cell: Cell) => void }) {
  // A few weeks fill the screen.
  const WEEK = load.weeks.length <= 9 ? 112 : 58;
  const box = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: load.centers.length,
    getScrollElement: () => box.current,
    estimateSize: () => TALL,
    overscan: 6,
  });
  const columns = useVirtualizer({
    horizontal: true,
    count: load.weeks.length,
    getScrollElement: () => box.current,
    estimateSize: () => WEEK,
    overscan: 6,
  });
  const weeks = columns.getVirtualItems();
  const now = load.weeks.findLast((week) => week <= load.today);
  const key = (event: KeyboardEvent) => {
    const move = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[event.key];
    if (!move) return;
    event.preventDefault();
    const row = load.centers.findIndex((c) => c.code === cell?.center);
    const column = load.weeks.indexOf(cell?.week ?? "");
    const clamp = (at: number, count: number) => Math.max(0, Math.min(count - 1, at));
    const [r, c] = [clamp(row + move[0]!, load.centers.length), clamp(column + move[1]!, load.weeks.length)];
    rows.scrollToIndex(r);
    columns.scrollToIndex(c);
    onCell({ center: load.centers[r]!.code, week: load.weeks[c]! });
    window.setTimeout(() => box.current?.querySelector<HTMLElement>("[aria-pressed=true]")?.focus(), 30);
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys are those of the cells within
    <div ref={box} onKeyDown={key} className="min-h-0 flex-1 overflow-auto border-t border-ink bg-paper">
      <div style={{ width: NAMES + columns.getTotalSize() }}>
        <div
          aria-hidden="true"
          className="sticky top-0 z-20 flex h-7 border-b border-hair-2 bg-paper text-[12px] text-ink-2"
        >
          <span
            className="sticky left-0 z-10 shrink-0 border-r border-hair bg-paper px-3 pt-1"
            style={{ width: NAMES }}
          >
            week of
          </span>
          <span className="relative">
            {weeks.map((week) => (
              <span
                key={week.key}
                className={`absolute pt-1 pl-1.5 whitespace-nowrap ${load.weeks[week.index] === now ? "font-semibold text-blue" : ""}`}
                style={{ left: week.start }}
              >
                {day(load.weeks[week.index]!).slice(0, -5)}
              </span>
            ))}
          </span>
        </div>
        <div className="relative" style={{ height: rows.getTotalSize() }}>
          {rows.getVirtualItems().map((item) => {
            const center = load.centers[item.index]!;
            // One scale a row: the most it asks for or has in any week.
            const most = Math.max(1e-9, ...center.load, ...center.capacity);
            return (
              <div
                key={item.key}
                className="absolute inset-x-0 flex border-b border-hair"
                style={{ height: TALL, transform: `translateY(${item.start}px)` }}
              >
                <span
                  className="sticky left-0 z-10 flex shrink-0 flex-col justify-center border-r border-hair bg-paper px-3"
                  style={{ width: NAMES }}
                >
                  <span className="truncate">
                    <span className="pn">{center.code}</span> {center.name}
                  </span>
                  <span className="truncate text-[12px] text-ink-3">
                    {[center.group, center.stations === 1 ? "1 station" : `${center.stations} stations`]
                      .filter(Boolean)
                      .join(" · ")}
                    {center.over > 0 && <b className="text-bad"> · {center.over} over</b>}
                  </span>
                </span>
                <span className="relative">
                  {weeks.map((week) => {
                    const at = week.index;
                    const [asked, there] = [center.load[at]!, center.capacity[at]!];
                    const chosen = cell?.center === center.code && cell.week === load.weeks[at];
                    const tall = (hours: number) => (hours / most) * BAR;
                    const within = Math.min(asked, there);
                    return (
                      <button
                        key={week.key}
                        type="button"
                        aria-pressed={chosen}
                        tabIndex={chosen || (!cell && item.index === 0 && at === 0) ? 0 : -1}
                        aria-label={`${center.code}, week of ${day(load.weeks[at]!)}: ${quantity(asked, 1)} of ${quantity(there, 1)} hours`}
                        title={`${quantity(asked, 1)} h of ${quantity(there, 1)} h`}
                        className={`absolute inset-y-0 ${chosen ? "bg-blue-tint" : "hover:bg-blue-tint"}`}
                        style={{ left: week.start, width: WEEK }}
                        onClick={() => onCell({ center: center.code, week: load.weeks[at]! })}
                      >
                        <svg width={WEEK} height={TALL} aria-hidden="true">
                          <rect
                            x={10}
                            width={WEEK - 20}
                            y={TALL - 6 - tall(within)}
                            height={tall(within)}
                            fill="var(--ink-3)"
                          />
                          {asked > there && (
                            <rect
                              x={10}
                              width={WEEK - 20}
                              y={TALL - 6 - tall(asked)}
                              height={tall(asked - there)}
                              fill="var(--bad)"
                            />
                          )}
                          <path
                            d={`M5 ${TALL - 6.5 - tall(there)}H${WEEK - 5}`}
                            stroke="var(--ink)"
                            strokeWidth={1.5}
                          />
                        </svg>
                      </button>
                    );
                  })}
                </span>
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}
