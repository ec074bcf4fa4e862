import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef, useState } from "react";
import { Button } from "../../kit/Button";
import type { Schemas } from "../../lib/api";
import { day, minutes } from "../../lib/number";
import { clock, epochOf, type Times } from "./times";

type Bar =
  | { kind: "step"; at: Schemas["TimeStep"]; start: number; end: number }
  | { kind: "order"; at: Schemas["TimeOrder"]; start: number; end: number };

const DAY = 86_400_000;
const ROW = 28;
const SCALES = [4, 8, 16, 32, 64, 128, 256];
export function Chart({ found, onPart }: { found: Times; onPart: (number: string) => void }) {
  const box = useRef<HTMLDivElement>(null);
  const [chainOnly, setChainOnly] = useState(false);
  const span = Math.max(1, (epochOf(found.end) - epochOf(found.start)) / DAY);
  const [scale, setScale] = useState(() => SCALES.find((s) => s * span > 320) ?? 256);
  const origin = Math.floor(epochOf(found.start) / DAY) * DAY;
  const bars = useMemo<Bar[]>(() => {
    const all: Bar[] = [
      ...found.steps.map((at): Bar => ({ kind: "step", at, start: epochOf(at.start), end: epochOf(at.end) })),
      ...found.orders
        .filter((at) => at.order_by !== null)
        .map(
          (at): Bar => ({ kind: "order", at, start: epochOf(at.needed) - at.lead_days * DAY, end: epochOf(at.needed) }),
        ),
    ];
    // By when each is done: what comes in stands before the work that takes it.
    return all.filter((bar) => !chainOnly || bar.at.chain).sort((a, b) => a.end - b.end || a.start - b.start);
  }, [found, chainOnly]);
  const rows = useVirtualizer({
    count: bars.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const x = (at: number) => ((at - origin) / DAY) * scale;
  const width = x(epochOf(found.end)) + 40;
  const days = Math.ceil(width / scale);
  const every = [1, 7, 14, 28, 84].find((n) => n * scale >= 64) ?? 168;
  const ticks = Array.from({ length: Math.ceil(days / every) }, (_, i) => origin + i * every * DAY);
  return (
    <>
      <div className="noprint flex items-center gap-3 pb-1.5 text-ink-2">
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={chainOnly} onChange={() => setChainOnly(!chainOnly)} />
          only the chain that sets it
        </label>
        <span className="ml-auto flex items-center gap-1">
          <Button
            className="!min-h-[26px] !px-2"
            aria-label="wider: fewer days on screen"
            disabled={scale === SCALES.at(-1)}
            onClick={() => setScale(SCALES[SCALES.indexOf(scale) + 1]!)}
          >
            wider
          </Button>
          <Button
            className="!min-h-[26px] !px-2"
            aria-label="narrower: more days on screen"
            disabled={scale === SCALES[0]}
            onClick={() => setScale(SCALES[SCALES.indexOf(scale) - 1]!)}
          >
            narrower
          </Button>
        </span>
      </div>
      <div
        ref={box}
        role="table"
        tabIndex={0}
        aria-label="Operations and orders in time"
        aria-rowcount={bars.length}
        className="min-h-0 flex-1 overflow-auto border-t border-ink bg-paper"
      >
        <div style={{ width: 292 + width }}>
          <div
            aria-hidden="true"
            className="sticky top-0 z-20 flex h-7 border-b border-hair-2 bg-paper text-[12px] text-ink-2"
          >
            <span className="sticky left-0 z-10 w-[292px] shrink-0 border-r border-hair bg-paper px-3 pt-1">
              part, operation or order
            </span>
            <span className="relative">
              {ticks.map((at) => (
                <span key={at} className="absolute pt-1 whitespace-nowrap" style={{ left: x(at) + 3 }}>
                  {day(new Date(at).toISOString().slice(0, 10)).slice(0, -5)}
                </span>
              ))}
            </span>
          </div>
          <div role="rowgroup" className="relative" style={{ height: rows.getTotalSize() }}>
            {ticks.map((at) => (
              <span
                key={at}
                aria-hidden="true"
                className="absolute top-0 bottom-0 border-l border-hair"
                style={{ left: 292 + x(at) }}
              />
            ))}
            {rows.getVirtualItems().map((item) => {
              const bar = bars[item.index]!;
              const { at } = bar;
              const name = bar.kind === "step" ? `${bar.at.sequence} ${bar.at.name}` : "order";
              const said =
                bar.kind === "step"
                  ? `${bar.at.where}: ${clock(bar.at.start)} to ${clock(bar.at.end)}, work ${minutes(bar.at.work_minutes)}`
                  : `order by ${day(bar.at.order_by)}, needed ${clock(bar.at.needed)}`;
              return (
                <div
                  key={item.key}
                  role="row"
                  aria-rowindex={item.index + 1}
                  className="absolute inset-x-0 flex border-b border-hair"
                  style={{ height: ROW, transform: `translateY(${item.start}px)` }}
                >
                  <span
                    role="rowheader"
                    className="sticky left-0 z-10 flex w-[292px] shrink-0 items-center gap-2 border-r border-hair bg-paper px-3"
                  >
                    <span
                      className={`w-1.5 self-stretch ${at.chain ? "bg-blue" : ""}`}
                      title={at.chain ? "sets the whole" : undefined}
                    />
                    <button type="button" className="pn shrink-0 hover:text-blue" onClick={() => onPart(at.part)}>
                      {at.part}
                    </button>
                    <span className="min-w-0 truncate text-ink-2">{name}</span>
                    {at.chain && <span className="ml-auto text-[11px] text-blue">chain</span>}
                  </span>
                  <span role="cell" className="relative" title={said}>
                    <span className="sr-only">{said}</span>
                    <svg
                      aria-hidden="true"
                      className="absolute top-0"
                      style={{ left: x(bar.start) }}
                      width={Math.max(3, x(bar.end) - x(bar.start)) + 2}
                      height={ROW}
                    >
                      <Shape bar={bar} scale={scale} />
                    </svg>
                  </span>
                </div>
              );
            })}
          </div>
        </div>
      </div>
    </>
  );
}

/** Work is full, waiting and what is done outside is outlined, an order is a line with its day at the foot. */
function Shape({ bar, scale }: { bar: Bar; scale: number }) {
  const width = Math.max(3, ((bar.end - bar.start) / DAY) * scale);
  const color = bar.at.chain ? "var(--blue)" : "var(--ink-3)";
  if (bar.kind === "order")
    return (
      <path
        d={`M1 8V20M1 14H${width}`}
        stroke={bar.at.late ? "var(--bad)" : "var(--brass)"}
        strokeWidth={bar.at.chain ? 3 : 1.5}
      />
    );
  if (bar.at.outside)
    return <rect x={0.5} y={7.5} width={width} height={13} fill="none" stroke={color} strokeDasharray="4 2" />;
  const wait = Math.min(width, (bar.at.wait_minutes / 1440) * scale);
  return (
    <>
      <rect x={0} y={7} width={Math.max(3, width - wait)} height={14} fill={color} />
      {wait > 0 && <rect x={width - wait + 0.5} y={7.5} width={wait} height={13} fill="none" stroke={color} />}
    </>
  );
}
