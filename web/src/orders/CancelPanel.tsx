import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { answer, client, type Refusal } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import type { Order } from "./states";

/** Why an order is cancelled; what came of it stays. */
export function CancelPanel({ order, onClose }: { order: Order; onClose: () => void }) {
  const [reason, setReason] = useState("");
  const untrue = useUntrue();
  const cancel = useMutation<Order, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/orders/{order_id}/cancel", {
          params: { path: { order_id: order.id } },
          body: { version: order.version, reason },
        }),
      ),
    onSuccess: () => {
      untrue("order");
      onClose();
    },
  });
  return (
    <Panel
      title={`Cancel ${order.number}`}
      note={order.state === "placed" ? "What is still to come is taken off; what came stays in stock." : undefined}
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          cancel.mutate();
        }}
      >
        <Field label="Why" error={cancel.error?.message}>
          {(p) => (
            <textarea
              {...p}
              className="field"
              rows={3}
              autoFocus
              value={reason}
              onChange={(event) => setReason(event.target.value)}
            />
          )}
        </Field>
        <div className="flex gap-2">
          <Button needs="buying" look="strong" type="submit" disabled={cancel.isPending}>
            Cancel the order
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Panel>
  );
}
