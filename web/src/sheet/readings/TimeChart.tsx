import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import { Button } from "../../kit/Button";
import { DataTable } from "../../kit/DataTable";
import { DayField } from "../../kit/DayField";
import type { DataColumn } from "../../kit/dataColumns";
import { addressNow } from "../../lib/address";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import type { Basis } from "../../lib/basis";
import { day, quantity } from "../../lib/number";
import { Chart } from "./TimeBars";
import { clock, type Times } from "./times";

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
          <span className="text-ink-3">stock counts for a quantity, not for costing lots</span>
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
                    key: "free",
                    title: "Free",
                    width: "70px",
                    number: true,
                    value: (o: Schemas["TimeOrder"]) => o.free,
                    show: (o: Schemas["TimeOrder"]) => quantity(o.free, 4),
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
