import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { type DataColumn, DataTable } from "../kit/DataTable";
import { DayField } from "../kit/DayField";
import { addressNow } from "../lib/address";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import type { Basis } from "../lib/basis";
import { day, minutes, quantity } from "../lib/number";

type Times = Schemas["Times"];
type Bar =
  | { kind: "step"; at: Schemas["TimeStep"]; start: number; end: number }
  | { kind: "order"; at: Schemas["TimeOrder"]; start: number; end: number };

const DAY = 86_400_000;
const ROW = 28;
const SCALES = [4, 8, 16, 32, 64, 128, 256];
const moment = (iso: string) => Date.parse(`${iso}Z`);
const clock = (iso: string) => `${day(iso.slice(0, 10))}, ${iso.slice(11, 16)}`;

/** One lot of the product in time: its operations across all levels, what is bought for them, and the chain that sets it. */
export function TimeChart({
  sheet,
  state,
  basis,
  onPart,
}: {
  sheet: number;
  /** Of the product, as `stateOf` gives it: another one has another schedule. */
  state: string;
  basis: Basis;
  onPart: (number: string) => void;
}) {
  const [params, setParams] = useSearchParams();
  const wanted = params.get("wanted") ?? "";
  const stock = params.get("stock") !== "0";
  const [orders, setOrders] = useState(false);
  const times = useQuery<Times, Refusal>({
    queryKey: ["times", sheet, state, basis, wanted, stock],
    queryFn: () =>
      answer(
        client.GET("/api/sheets/{sheet_id}/times", {
          params: { path: { sheet_id: sheet }, query: { ...basis, wanted, stock } },
        }),
      ),
    placeholderData: (old) => old,
    staleTime: 0,
  });
  const set = (name: string, value: string) =>
    setParams(
      () => {
        const next = addressNow();
        value ? next.set(name, value) : next.delete(name);
        return next;
      },
      { replace: true },
    );
  const found = times.data;
  const late = found?.orders.filter((o) => o.late).length ?? 0;
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="noprint flex flex-wrap items-center gap-x-3 gap-y-1 pb-2">
        <span className="flex items-center gap-1.5">
          wanted on
          <DayField
            aria-label="Wanted on"
            className="field !min-h-[26px] !w-[118px]"
            placeholder="as soon as can be"
            aria-invalid={!!times.error?.of("wanted")}
            value={wanted}
            onKeep={(iso) => set("wanted", iso)}
          />
        </span>
        {found && !times.error && (
          <span aria-live="polite">
            lead time <b className="text-[15px]">{quantity(found.lead_days, 1)} days</b>{" "}
            <span className="text-ink-2">
              {clock(found.start)} – {clock(found.end)}
            </span>
          </span>
        )}
        {late > 0 && (
          <span className="text-bad">
            {late} {late === 1 ? "order is" : "orders are"} past
          </span>
        )}
        {basis.quantity ? (
          <label
            className="flex items-center gap-1.5 text-ink-2"
            title="Of bought parts; for their day what comes in by then"
          >
            <input type="checkbox" checked={stock} onChange={() => set("stock", stock ? "0" : "")} />
            less what is on hand and on order
          </label>
        ) : (
          <span className="text-ink-3">stock counts for a quantity, not for standard lots</span>
        )}
        <Button className="ml-auto !min-h-[26px] !px-2" onClick={() => setOrders(!orders)}>
          {orders ? "Time chart" : "Order days"}
        </Button>
      </div>
      {times.error && (
        <p role="alert" className="pb-2 text-bad">
          {times.error.message}
        </p>
      )}
      {found && (orders ? <Orders found={found} onPart={onPart} /> : <Chart found={found} onPart={onPart} />)}
    </div>
  );
}

function Chart({ found, onPart }: { found: Times; onPart: (number: string) => void }) {
  const box = useRef<HTMLDivElement>(null);
  const [chainOnly, setChainOnly] = useState(false);
  const span = Math.max(1, (moment(found.end) - moment(found.start)) / DAY);
  const [scale, setScale] = useState(() => SCALES.find((s) => s * span > 320) ?? 256);
  const origin = Math.floor(moment(found.start) / DAY) * DAY;
  const bars = useMemo<Bar[]>(() => {
    const all: Bar[] = [
      ...found.steps.map((at): Bar => ({ kind: "step", at, start: moment(at.start), end: moment(at.end) })),
      ...found.orders
        .filter((at) => at.order_by !== null)
        .map(
          (at): Bar => ({ kind: "order", at, start: moment(at.needed) - at.lead_days * DAY, end: moment(at.needed) }),
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
  const width = x(moment(found.end)) + 40;
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

function Orders({ found, onPart }: { found: Times; onPart: (number: string) => void }) {
  const columns = useMemo<DataColumn<Schemas["TimeOrder"]>[]>(
    () => [
      {
        key: "part",
        title: "Part",
        width: "minmax(96px,128px)",
        value: (o) => o.part,
        show: (o) => <span className="pn">{o.part}</span>,
      },
      { key: "description", title: "Description", width: "minmax(120px,1fr)", value: (o) => o.description },
      ...(found.orders.some((o) => o.quantity !== null)
        ? [
            {
              key: "taken",
              title: "Needed",
              width: "76px",
              number: true,
              value: (o: Schemas["TimeOrder"]) => o.taken,
              show: (o: Schemas["TimeOrder"]) => quantity(o.taken, 4),
            },
            ...(found.stock
              ? [
                  {
                    key: "on_hand",
                    title: "On hand",
                    width: "70px",
                    number: true,
                    value: (o: Schemas["TimeOrder"]) => o.on_hand,
                    show: (o: Schemas["TimeOrder"]) => quantity(o.on_hand, 4),
                  },
                  {
                    key: "on_order",
                    title: "Coming by then",
                    width: "88px",
                    number: true,
                    value: (o: Schemas["TimeOrder"]) => o.on_order,
                    show: (o: Schemas["TimeOrder"]) => quantity(o.on_order, 4),
                  },
                ]
              : []),
            {
              key: "quantity",
              title: "Order",
              width: "76px",
              number: true,
              value: (o: Schemas["TimeOrder"]) => o.quantity,
              show: (o: Schemas["TimeOrder"]) => <b className="font-semibold">{quantity(o.quantity, 4)}</b>,
            },
            { key: "unit", title: "Unit", width: "36px", value: (o: Schemas["TimeOrder"]) => o.unit },
          ]
        : []),
      {
        key: "order_by",
        title: "Order by",
        width: "96px",
        groups: true,
        letters: true,
        value: (o) => o.order_by ?? "covered",
        show: (o) =>
          o.order_by ? (
            <b className={o.late ? "text-bad" : ""}>{day(o.order_by)}</b>
          ) : (
            <span className="text-ink-3">covered</span>
          ),
      },
      {
        key: "needed",
        title: "Needed by",
        width: "130px",
        value: (o) => o.needed,
        show: (o) => clock(o.needed),
      },
      { key: "lead", title: "Days", width: "44px", number: true, value: (o) => o.lead_days },
      {
        key: "note",
        title: "",
        width: "92px",
        value: (o) => [o.late ? "too late" : "", o.chain ? "sets it" : ""].filter(Boolean).join(", "),
        show: (o) => (
          <span className={o.late ? "text-bad" : "text-blue"}>
            {[o.late ? "too late" : "", o.chain ? "sets it" : ""].filter(Boolean).join(", ")}
          </span>
        ),
      },
    ],
    [found],
  );
  return (
    <DataTable
      name="order days"
      title={`Order days ${found.wanted ?? ""}`}
      columns={columns}
      rows={found.orders}
      sort={{ key: "order_by", down: false }}
      onOpen={(o) => onPart(o.part)}
    />
  );
}
