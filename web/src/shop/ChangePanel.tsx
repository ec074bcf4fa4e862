import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { answer, client } from "../lib/api";
import { quantity, typed } from "../lib/number";
import { type Order, useAct } from "./states";

/** Quantity and day of an order on which nothing was done yet. */
export function ChangePanel({ order, onClose }: { order: Order; onClose: () => void }) {
  const [many, setMany] = useState(order.quantity);
  const [wanted, setWanted] = useState(order.wanted ?? "");
  const save = useAct<void>(
    () =>
      answer(
        client.POST("/api/shop/orders/{order_id}/change", {
          params: { path: { order_id: order.id } },
          body: { version: order.version, quantity: typed(many), wanted },
        }),
      ),
    onClose,
  );
  return (
    <Panel
      title={`Change ${order.number}`}
      note={order.state === "released" ? "It is fixed anew, by the sheet and the costs of today." : undefined}
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <Field label={`How many, ${order.unit}`} error={save.error?.message}>
          {(p) => <input {...p} className="field" value={many} onChange={(event) => setMany(event.target.value)} />}
        </Field>
        <Field label="Wanted">
          {(p) => <DayField {...p} value={wanted} onKeep={setWanted} placeholder="as soon as may be" />}
        </Field>
        <Keep word="Keep it" pending={save.isPending} onClose={onClose} />
      </form>
    </Panel>
  );
}

/** Which order takes what comes out of this one. */
export function LinkPanel({ order, onClose }: { order: Order; onClose: () => void }) {
  const [parent, setParent] = useState(order.parent ?? "");
  const save = useAct<void>(
    () =>
      answer(
        client.POST("/api/shop/orders/{order_id}/parent", {
          params: { path: { order_id: order.id } },
          body: { version: order.version, parent },
        }),
      ),
    onClose,
  );
  return (
    <Panel
      title={`What ${order.number} is made for`}
      note="The order that takes what comes out of it; nothing where it is made for stock."
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <Field label="Order" error={save.error?.problems[0]?.message ?? save.error?.message}>
          {(p) => (
            <input
              {...p}
              className="field"
              autoFocus
              placeholder="WO-…"
              value={parent}
              onChange={(event) => setParent(event.target.value)}
            />
          )}
        </Field>
        <Keep word="Keep it" pending={save.isPending} onClose={onClose} />
      </form>
    </Panel>
  );
}

/** So many of an order become an order of their own. */
export function SplitPanel({ order, onClose }: { order: Order; onClose: () => void }) {
  const [many, setMany] = useState("");
  const navigate = useNavigate();
  const split = useAct<void>(
    () =>
      answer(
        client.POST("/api/shop/orders/{order_id}/split", {
          params: { path: { order_id: order.id } },
          body: { version: order.version, quantity: typed(many) },
        }),
      ),
    (other) => {
      onClose();
      navigate(`/shop/orders/${other.id}`);
    },
  );
  return (
    <Panel
      title={`Split ${order.number}`}
      note={`So many of its ${quantity(order.quantity)} become an order of their own.`}
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          split.mutate();
        }}
      >
        <Field label={`How many, ${order.unit}`} error={split.error?.message}>
          {(p) => <input {...p} className="field" value={many} onChange={(event) => setMany(event.target.value)} />}
        </Field>
        <Keep word="Split it" pending={split.isPending} onClose={onClose} />
      </form>
    </Panel>
  );
}

const ASKS = {
  cancel: { title: "Cancel", note: "Nothing was done on it, and nothing more will be.", word: "Cancel the order" },
  close: {
    title: "Close",
    note: "It is not done: what it came to is reckoned for the good units so far, and nothing more is reported.",
    word: "Close it short",
  },
  sheet: {
    title: "Take the sheet over:",
    note: "Operations, components and expected cost are fixed anew, by the sheet in force today.",
    word: "Take it over",
  },
};

/** A step that needs a reason. */
export function ReasonPanel({
  order,
  action,
  onClose,
}: {
  order: Order;
  action: keyof typeof ASKS;
  onClose: () => void;
}) {
  const [reason, setReason] = useState("");
  const asks = ASKS[action];
  const act = useAct<void>(
    () =>
      answer(
        client.POST(`/api/shop/orders/{order_id}/${action}`, {
          params: { path: { order_id: order.id } },
          body: { version: order.version, reason },
        }),
      ),
    onClose,
  );
  return (
    <Panel title={`${asks.title} ${order.number}`} note={asks.note} open onClose={onClose}>
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          act.mutate();
        }}
      >
        <Field label="Why" error={act.error?.message}>
          {(p) => (
            <textarea
              {...p}
              rows={3}
              className="field"
              autoFocus
              value={reason}
              onChange={(event) => setReason(event.target.value)}
            />
          )}
        </Field>
        <Keep word={asks.word} pending={act.isPending} onClose={onClose} />
      </form>
    </Panel>
  );
}

function Keep({ word, pending, onClose }: { word: string; pending: boolean; onClose: () => void }) {
  return (
    <div className="flex gap-2">
      <Button needs="work orders" look="strong" type="submit" disabled={pending}>
        {word}
      </Button>
      <Button onClick={onClose}>Leave it</Button>
    </div>
  );
}
