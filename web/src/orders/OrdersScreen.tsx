import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { DataTable } from "../kit/DataTable";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { ListFrame } from "../kit/ListFrame";
import { Strokes } from "../kit/Strokes";
import { answer, client } from "../lib/api";
import { day, money } from "../lib/number";
import { inAll, type OrderRow, STATES } from "./states";

const COLUMNS: DataColumn<OrderRow>[] = [
  {
    key: "number",
    title: "Number",
    width: "90px",
    value: (o) => o.number,
    show: (o) => <span className="pn">{o.number}</span>,
  },
  { key: "supplier", title: "Supplier", width: "minmax(150px,1.2fr)", value: (o) => o.supplier, groups: true },
  {
    key: "state",
    title: "State",
    width: "150px",
    value: (o) => STATES[o.state] ?? o.state,
    show: (o) => <span className={o.state === "draft" ? "text-brass" : ""}>{STATES[o.state]}</span>,
    groups: true,
  },
  {
    key: "received",
    title: "Lines received",
    width: "210px",
    value: (o) => o.received,
    show: (o) => <Strokes done={o.received} of={o.lines} what="lines" />,
  },
  {
    key: "next",
    title: "Next to come",
    width: "150px",
    value: (o) => o.next,
    show: (o) =>
      o.next === null ? (
        ""
      ) : (
        <span className={o.late ? "font-semibold text-bad" : ""}>
          {day(o.next)}
          {o.late > 0 && ` ${o.late} late`}
        </span>
      ),
  },
  {
    key: "plan",
    title: "Plan",
    width: "80px",
    value: (o) => o.plan_number || null,
    groups: true,
  },
  { key: "made_by", title: "Made by", width: "90px", value: (o) => o.placed_by || o.made_by },
  {
    key: "total",
    title: "In all",
    width: "120px",
    value: inAll,
    show: (o) => (
      <>
        {money(inAll(o))} <span className="text-[12px] text-ink-3">{o.currency}</span>
      </>
    ),
    number: true,
  },
];

/** What is ordered of suppliers. */
export function OrdersScreen() {
  const [closed, setClosed] = useState(false);
  const navigate = useNavigate();
  const list = useQuery({
    queryKey: ["orders", "list", closed],
    queryFn: () => answer(client.GET("/api/orders", { params: { query: { closed } } })),
    staleTime: 0,
  });
  return (
    <ListFrame
      title="Orders"
      words="What we order of suppliers, and what of it is still to come."
      error={list.error?.message}
      beside={
        <label className="ml-auto flex items-center gap-1.5">
          <input type="checkbox" checked={closed} onChange={(e) => setClosed(e.target.checked)} /> also received and
          cancelled
        </label>
      }
    >
      {list.data?.length === 0 ? (
        <Empty
          title={closed ? "No order yet" : "No order is open"}
          action={
            <Button look="strong" onClick={() => navigate("/buying")}>
              To the buy plans
            </Button>
          }
        >
          A buy plan becomes an order for each supplier; one part is ordered from its offers on its page.
        </Empty>
      ) : (
        <DataTable
          name="orders"
          title="Orders"
          columns={COLUMNS}
          rows={list.data ?? []}
          onOpen={(o) => navigate(`/orders/${o.id}`)}
        />
      )}
    </ListFrame>
  );
}
