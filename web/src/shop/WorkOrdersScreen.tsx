import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { ListFrame } from "../kit/ListFrame";
import { Strokes } from "../kit/Strokes";
import { answer, client } from "../lib/api";
import { day, money, quantity, signed } from "../lib/number";
import { PartTable } from "../pieces/parts/PartTable";
import { CanBuild } from "./CanBuild";
import { NewOrder } from "./NewOrder";
import { type OrderRow, STATES } from "./states";

const COLUMNS: DataColumn<OrderRow>[] = [
  {
    key: "number",
    title: "Order",
    width: "80px",
    value: (o) => o.number,
    show: (o) => <span className="pn">{o.number}</span>,
  },
  {
    key: "part",
    title: "Part",
    width: "92px",
    value: (o) => o.part,
    show: (o) => <span className="pn">{o.part}</span>,
    groups: true,
  },
  { key: "description", title: "What it is", width: "minmax(110px,1.4fr)", value: (o) => o.description },
  {
    key: "quantity",
    title: "Ordered",
    width: "88px",
    number: true,
    value: (o) => Number(o.quantity),
    show: (o) => (
      <>
        {quantity(o.quantity)} <span className="text-[12px] text-ink-3">{o.unit}</span>
      </>
    ),
  },
  {
    key: "state",
    title: "State",
    width: "112px",
    value: (o) => STATES[o.state],
    show: (o) => <span className={o.state === "planned" ? "text-brass" : ""}>{STATES[o.state]}</span>,
    groups: true,
  },
  {
    key: "progress",
    title: "Operations done",
    width: "126px",
    value: (o) => o.share,
    show: (o) =>
      o.operations ? (
        <Strokes done={o.done} of={o.operations} what="operations" />
      ) : (
        <span className="text-ink-3">not released</span>
      ),
  },
  { key: "good", title: "Good", width: "56px", number: true, value: (o) => Number(o.good) },
  { key: "scrapped", title: "Scrap", width: "56px", number: true, value: (o) => Number(o.scrapped) || null, off: true },
  {
    key: "wanted",
    title: "Wanted",
    width: "144px",
    letters: true,
    value: (o) => o.wanted,
    show: (o) => (
      <span className={o.late ? "font-semibold text-bad" : ""}>
        {o.wanted ? day(o.wanted) : ""}
        {o.late > 0 && `, ${o.late} d late`}
      </span>
    ),
  },
  {
    key: "short",
    title: "Short of",
    width: "66px",
    value: (o) => o.short || null,
    show: (o) =>
      o.short ? <span className="font-semibold text-bad">{o.short === 1 ? "1 part" : `${o.short} parts`}</span> : "",
  },
  { key: "parent", title: "For", width: "80px", value: (o) => o.parent, groups: true },
  {
    key: "expected",
    title: "Expected",
    width: "76px",
    number: true,
    costs: true,
    value: (o) => (o.expected === null ? null : Number(o.expected)),
    show: (o) => (o.expected === null ? "" : money(Number(o.expected))),
  },
  {
    key: "difference",
    title: "Came to",
    width: "76px",
    number: true,
    costs: true,
    value: (o) => (o.difference === null ? null : Number(o.difference)),
    show: (o) => (o.difference === null ? "" : signed(Number(o.difference))),
  },
];

const numberOf = (o: OrderRow) => o.part;

/** All orders of our own shop with how far each is; and where a new one begins. */
export function WorkOrdersScreen() {
  const [params] = useSearchParams();
  const [all, setAll] = useState(false);
  const [open, setOpen] = useState<"order" | "can" | null>(params.get("part") ? "order" : null);
  const navigate = useNavigate();
  const which = all ? "all" : "open";
  const list = useQuery({
    queryKey: ["work-orders", "list", which],
    queryFn: () => answer(client.GET("/api/shop/orders", { params: { query: { which } } })),
    staleTime: 0,
  });
  return (
    <ListFrame
      title="Work orders"
      words="What our own shop makes, how far it is, and what it came to."
      error={list.error?.message}
      beside={
        <span className="ml-auto flex items-center gap-3">
          <label className="flex min-h-6 items-center gap-1.5">
            <input type="checkbox" checked={all} onChange={(event) => setAll(event.target.checked)} /> also closed
          </label>
          <Link className="text-blue underline" to="/shop/at">
            At a work center
          </Link>
          <Button onClick={() => setOpen(open === "can" ? null : "can")} aria-expanded={open === "can"}>
            Can it be built?
          </Button>
          <Button
            needs="work orders"
            look="strong"
            aria-expanded={open === "order"}
            onClick={() => setOpen(open === "order" ? null : "order")}
          >
            New order
          </Button>
        </span>
      }
    >
      {open === "order" && <NewOrder part={params.get("part") ?? ""} onClose={() => setOpen(null)} />}
      {open === "can" && <CanBuild part={params.get("part") ?? ""} onClose={() => setOpen(null)} />}
      {list.data?.length === 0 ? (
        <Empty title={all ? "No order yet" : "No order is open"}>
          Name a made part and how many of it: its operations are laid on the calendars of their work centers, and what
          it takes and is not there gets orders of its own.
        </Empty>
      ) : (
        <PartTable
          numberOf={numberOf}
          name="work orders"
          title="Work orders"
          columns={COLUMNS}
          rows={list.data ?? []}
          onOpen={(o) => navigate(`/shop/orders/${o.id}`)}
        />
      )}
    </ListFrame>
  );
}
