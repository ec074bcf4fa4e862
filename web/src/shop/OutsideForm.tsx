import { useRef, useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { answer, client } from "../lib/api";
import { typed } from "../lib/number";
import { type Order, type Stage, useAct } from "./states";

/** Work outside: what left for the supplier, and what they invoiced. */
export function OutsideForm({ order, stage, onClose }: { order: Order; stage: Stage; onClose: () => void }) {
  const there = Math.max(Number(stage.here) - Number(stage.sent), 0);
  const [units, setUnits] = useState(there ? String(there) : "");
  const [slip, setSlip] = useState("");
  const [amount, setAmount] = useState("");
  const [invoice, setInvoice] = useState("");
  const keys = useRef([crypto.randomUUID(), crypto.randomUUID()] as const);
  const path = { order_id: order.id };
  const send = useAct<void>(
    () =>
      answer(
        client.POST("/api/shop/orders/{order_id}/sent", {
          params: { path },
          body: { key: keys.current[0], sequence: stage.sequence, quantity: typed(units), slip },
        }),
      ),
    onClose,
  );
  const bill = useAct<void>(
    () =>
      answer(
        client.POST("/api/shop/orders/{order_id}/invoice", {
          params: { path },
          body: { key: keys.current[1], sequence: stage.sequence, amount: typed(amount), invoice },
        }),
      ),
    onClose,
  );
  const field = (label: string, value: string, set: (text: string) => void, focus = false, error?: string) => (
    <div className="w-[120px]">
      <Field label={label} error={error}>
        {(p) => (
          <input
            {...p}
            className="field"
            autoFocus={focus}
            value={value}
            onChange={(event) => set(event.target.value)}
          />
        )}
      </Field>
    </div>
  );
  return (
    <div className="flex flex-wrap gap-x-10 gap-y-2 border-b border-ink bg-sunk px-2 py-2 pl-[60px]">
      <form
        aria-label={`Send to ${stage.supplier}`}
        className="flex items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          send.mutate();
        }}
      >
        {field("Units sent", units, setUnits, true, send.error?.problems[0]?.message)}
        {field("Slip", slip, setSlip)}
        <Button needs="shop reports" look="strong" type="submit" disabled={send.isPending}>
          Send them
        </Button>
      </form>
      <form
        aria-label={`Invoice of ${stage.supplier}`}
        className="flex items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          bill.mutate();
        }}
      >
        {field("Invoiced", amount, setAmount, false, bill.error?.problems[0]?.message)}
        {field("Invoice number", invoice, setInvoice)}
        <Button needs="shop reports" type="submit" disabled={bill.isPending}>
          Keep the invoice
        </Button>
      </form>
      <Button className="ml-auto self-end" onClick={onClose}>
        Leave it
      </Button>
    </div>
  );
}
