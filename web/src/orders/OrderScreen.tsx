import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { Menu, MenuItem } from "../kit/Menu";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal } from "../lib/api";
import { day, money } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { CancelPanel } from "./CancelPanel";
import { OrderLines } from "./OrderLines";
import { inAll, type Order, STATES } from "./states";

/** One order: its lines, what came of each, and what is done next with it. */
export function OrderScreen() {
  const id = Number(useParams().id);
  const navigate = useNavigate();
  const order = useQuery({
    queryKey: ["orders", "one", id],
    queryFn: () => answer(client.GET("/api/orders/{order_id}", { params: { path: { order_id: id } } })),
    staleTime: 0,
  });
  if (order.error && !order.data)
    return (
      <Empty title="Order" action={<Button onClick={() => navigate("/orders")}>To the orders</Button>}>
        <p role="alert">{order.error.message}</p>
      </Empty>
    );
  if (!order.data) return null;
  // What somebody else did meanwhile is read into fields of its own.
  return <Whole key={order.data.version} order={order.data} />;
}

function Whole({ order }: { order: Order }) {
  const [cancelling, setCancelling] = useState(false);
  const say = useSay();
  const untrue = useUntrue();
  const place = useMutation<Order, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/orders/{order_id}/place", {
          params: { path: { order_id: order.id } },
          body: { version: order.version },
        }),
      ),
    onSuccess: (saved) => {
      untrue("order");
      say(`Placed ${saved.number}: its parts are on order.`);
    },
    onError: (error) => say(error.message, { bad: true }),
  });
  const paper = (shape: string) => window.location.assign(`/api/orders/${order.id}/paper/${shape}`);
  return (
    <div className="h-full overflow-y-auto px-4 pt-3 pb-6">
      <div className="flex items-baseline gap-3 pb-2">
        <h1 className="flex items-baseline gap-2 text-[20px] font-semibold">
          <span className="font-mono text-[17px]">{order.number}</span> {order.supplier}
        </h1>
        <span className={order.state === "draft" ? "text-brass" : "text-ink-2"}>
          {STATES[order.state]}
          {order.state === "placed" && order.placed_at && ` ${day(order.placed_at)} by ${order.placed_by}`}
          {order.state === "cancelled" && ` by ${order.cancelled_by}: ${order.reason}`}
        </span>
        {order.plan && (
          <Link className="text-blue underline" to={`/buying/${order.plan}`}>
            plan <span className="pn">{order.plan_number}</span>
          </Link>
        )}
        <span className="ml-auto flex gap-2">
          <Menu label="Paper …">
            <MenuItem onSelect={() => paper("pdf")}>as PDF</MenuItem>
            <MenuItem onSelect={() => paper("csv")}>as CSV</MenuItem>
            <MenuItem onSelect={() => paper("xml")}>as UBL 2.1 order</MenuItem>
          </Menu>
          {order.why_not.cancel === null && (
            <Button needs="buying" onClick={() => setCancelling(true)}>
              Cancel it …
            </Button>
          )}
          {order.why_not.place === null && (
            <Button needs="buying" look="strong" disabled={place.isPending} onClick={() => place.mutate()}>
              Place the order
            </Button>
          )}
        </span>
      </div>
      <OrderLines order={order} />
      <dl className="mt-3 ml-auto grid w-[280px] grid-cols-[1fr_auto] [&>dd]:pl-4">
        <dt className="text-ink-2">Goods</dt>
        <dd className="text-right">{money(Number(order.goods))}</dd>
        {Number(order.freight) > 0 && (
          <>
            <dt className="text-ink-2">Freight</dt>
            <dd className="text-right">{money(Number(order.freight))}</dd>
          </>
        )}
        {Number(order.charge) > 0 && (
          <>
            <dt className="text-ink-2">Charge for a small order</dt>
            <dd className="text-right">{money(Number(order.charge))}</dd>
          </>
        )}
        <dt className="border-t border-ink font-semibold">In all, {order.currency}</dt>
        <dd className="border-t border-ink text-right font-semibold">{money(inAll(order))}</dd>
      </dl>
      {order.note && <p className="pt-2 text-ink-2">For: {order.note}</p>}
      {cancelling && <CancelPanel order={order} onClose={() => setCancelling(false)} />}
    </div>
  );
}
