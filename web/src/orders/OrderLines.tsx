import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal } from "../lib/api";
import { day, money, quantity, today, typed } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import type { Order, OrderLine } from "./states";

const GRID =
  "grid grid-cols-[30px_100px_minmax(160px,1.4fr)_minmax(130px,1fr)_110px_100px_100px_130px_minmax(150px,1fr)] items-center gap-x-2 px-2";

type Change = Record<number, { quantity?: string; price?: string; due_on?: string }>;

/** The lines of an order. A draft is changed where it stands; of a placed one what came is typed where it stands. */
export function OrderLines({ order }: { order: Order }) {
  const [change, setChange] = useState<Change>({});
  const [came, setCame] = useState<Record<number, string>>({});
  const [slip, setSlip] = useState("");
  const say = useSay();
  const untrue = useUntrue();
  const path = { order_id: order.id };
  const save = useMutation<Order, Refusal, void>({
    mutationFn: () =>
      answer(
        client.PATCH("/api/orders/{order_id}", {
          params: { path },
          body: {
            version: order.version,
            lines: Object.entries(change).map(([line, c]) => ({
              line: Number(line),
              ...(c.quantity === undefined ? {} : { quantity: typed(c.quantity) }),
              ...(c.price === undefined ? {} : { price: typed(c.price) }),
              ...(c.due_on === undefined ? {} : { due_on: c.due_on }),
            })),
          },
        }),
      ),
    onSuccess: () => untrue("order"),
  });
  const rows = Object.entries(came).filter(([, text]) => text.trim());
  const receive = useMutation<Order, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/orders/{order_id}/receive", {
          params: { path },
          body: {
            version: order.version,
            slip,
            came: rows.map(([line, text]) => ({ line: Number(line), quantity: typed(text) })),
          },
        }),
      ),
    onSuccess: (saved) => {
      untrue("order");
      untrue("stock");
      say(saved.told.length ? `Received. ${saved.told.join("; ")}.` : "Received; stock has moved.");
    },
  });
  const close = useMutation<Order, Refusal, number>({
    mutationFn: (line) =>
      answer(
        client.POST("/api/orders/{order_id}/lines/{line_id}/close", {
          params: { path: { ...path, line_id: line } },
          body: { version: order.version },
        }),
      ),
    onSuccess: () => untrue("order"),
    onError: (error) => say(error.message, { bad: true }),
  });
  const draft = order.why_not.change === null;
  const takes = order.why_not.receive === null;
  const error = save.error ?? receive.error;
  const set = (line: number, more: Change[number]) =>
    setChange((old) => ({ ...old, [line]: { ...old[line], ...more } }));
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (draft) save.mutate();
        else receive.mutate();
      }}
    >
      <div role="table" aria-label="Lines of the order" className="border-t border-ink bg-paper">
        <div role="row" className={`${GRID} h-7 border-b border-hair-2 text-[12px] text-ink-2`}>
          <span role="columnheader" />
          <span role="columnheader">our part</span>
          <span role="columnheader">what it is</span>
          <span role="columnheader">their number, maker's</span>
          <span role="columnheader" className="text-right">
            ordered
          </span>
          <span role="columnheader" className="text-right">
            each, {order.currency}
          </span>
          <span role="columnheader" className="text-right">
            in all
          </span>
          <span role="columnheader" className="pl-3">
            wanted by
          </span>
          <span role="columnheader">{takes ? "came" : ""}</span>
        </div>
        {order.rows.map((line) => (
          <div key={line.id} role="row" className={`${GRID} min-h-9 border-b border-hair py-0.5`}>
            <span role="cell" className="text-right text-[12px] text-ink-3">
              {line.position}
            </span>
            <span role="cell">
              <Link className="pn text-blue hover:underline" to={`/part/${encodeURIComponent(line.part)}`}>
                {line.part}
              </Link>
            </span>
            <span role="cell" className="truncate" title={line.description}>
              {line.description}
            </span>
            <span role="cell" className="pn truncate text-ink-2" title={`${line.maker} ${line.maker_number}`}>
              {[line.their_number, line.maker_number].filter(Boolean).join(" · ")}
            </span>
            <span role="cell" className="text-right whitespace-nowrap">
              {draft ? (
                <span className="flex items-center gap-1">
                  <input
                    className="field !min-h-[26px] text-right"
                    aria-label={`Quantity of ${line.part}`}
                    value={change[line.id]?.quantity ?? line.quantity}
                    onChange={(event) => set(line.id, { quantity: event.target.value })}
                  />
                  <span className="text-[12px] text-ink-3">{line.unit}</span>
                </span>
              ) : (
                <>
                  {quantity(line.quantity)} <span className="text-[12px] text-ink-3">{line.unit}</span>
                </>
              )}
            </span>
            <span role="cell" className="text-right">
              {draft ? (
                <input
                  className="field !min-h-[26px] text-right"
                  aria-label={`Price of ${line.part}`}
                  value={change[line.id]?.price ?? line.price}
                  onChange={(event) => set(line.id, { price: event.target.value })}
                />
              ) : (
                money(Number(line.price))
              )}
            </span>
            <span role="cell" className="text-right font-semibold">
              {money(
                Number(typed(change[line.id]?.quantity ?? line.quantity)) *
                  Number(typed(change[line.id]?.price ?? line.price)),
              )}
            </span>
            <span role="cell" className="pl-3">
              {draft ? (
                <DayField
                  className="field !min-h-[26px]"
                  aria-label={`Day of ${line.part}`}
                  value={change[line.id]?.due_on ?? line.due_on ?? ""}
                  onKeep={(iso) => set(line.id, { due_on: iso })}
                />
              ) : (
                <span className={late(line, order) ? "font-semibold text-bad" : "text-ink-2"}>
                  {day(line.due_on)}
                  {late(line, order) && " late"}
                </span>
              )}
            </span>
            <span role="cell" className="flex items-center gap-2">
              {takes && (
                <Came
                  line={line}
                  order={order}
                  text={came[line.id] ?? ""}
                  onText={(text) => setCame((old) => ({ ...old, [line.id]: text }))}
                  onClose={() => close.mutate(line.id)}
                />
              )}
            </span>
          </div>
        ))}
      </div>
      {error && (
        <p role="alert" className="pt-1 text-bad">
          {error.problems[0]?.message ?? error.message}
        </p>
      )}
      <div className="flex items-center gap-2 pt-2">
        {draft && Object.keys(change).length > 0 && (
          <Button needs="buying" look="strong" type="submit" disabled={save.isPending}>
            Save the lines
          </Button>
        )}
        {takes && (
          <>
            {order.rows.some((l) => Number(l.to_come) > 0) && (
              <Button
                look="quiet"
                onClick={() =>
                  setCame(Object.fromEntries(order.rows.filter((l) => Number(l.to_come)).map((l) => [l.id, l.to_come])))
                }
              >
                all that is to come
              </Button>
            )}
            <label className="ml-auto flex items-center gap-2 text-ink-2">
              Their delivery note
              <input className="field !w-[130px]" value={slip} onChange={(event) => setSlip(event.target.value)} />
            </label>
            <Button needs="stock" look="strong" type="submit" disabled={rows.length === 0 || receive.isPending}>
              Take in what came
            </Button>
          </>
        )}
      </div>
    </form>
  );
}

const late = (line: OrderLine, order: Order) =>
  order.state === "placed" && Number(line.to_come) > 0 && line.due_on !== null && line.due_on < today();

function Came({
  line,
  order,
  text,
  onText,
  onClose,
}: {
  line: OrderLine;
  order: Order;
  text: string;
  onText: (text: string) => void;
  onClose: () => void;
}) {
  const told = line.receipts
    .map((r) => `${quantity(r.quantity)} on ${day(r.at)} by ${r.by}${r.slip ? `, slip ${r.slip}` : ""}`)
    .join("\n");
  const over = Number(line.received) - Number(line.quantity);
  return (
    <>
      <input
        className="field !min-h-[26px] !w-[72px] text-right"
        aria-label={`Came of ${line.part}`}
        inputMode="decimal"
        value={text}
        onChange={(event) => onText(event.target.value)}
      />
      <span className="min-w-0 text-[12px] text-ink-2" title={told}>
        {Number(line.received) > 0 && `${quantity(line.received)} came`}
        {over > 0 && <b className="font-semibold text-brass"> {quantity(over)} over</b>}
        {Number(line.to_come) > 0 && (
          <>
            {Number(line.received) > 0 ? ", " : ""}
            {quantity(line.to_come)} to come
          </>
        )}
        {line.closed && " closed"}
      </span>
      {order.why_not.close_line === null && Number(line.received) > 0 && Number(line.to_come) > 0 && (
        <Button
          needs="buying"
          look="quiet"
          className="!min-h-0 !px-0"
          title="nothing more is to come of it"
          onClick={onClose}
        >
          close
        </Button>
      )}
    </>
  );
}
