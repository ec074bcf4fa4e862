import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { Field } from "../kit/Field";
import { answer, client } from "../lib/api";
import { useAskedAs } from "../lib/askedAs";
import { typed } from "../lib/number";
import { PartChoice } from "../pieces/PartChoice";
import { useAct } from "./states";

/** A new order: a part, how many, by when; with or without orders for what it lacks. */
export function NewOrder({ part: first, onClose }: { part: string; onClose: () => void }) {
  const [part, setPart] = useState(first);
  const [quantity, setQuantity] = useState("");
  const [wanted, setWanted] = useState("");
  const [options, setOptions] = useState("");
  const [alternate, setAlternate] = useState("");
  const [nest, setNest] = useState(true);
  const askedAs = useAskedAs();
  const navigate = useNavigate();
  const add = useAct<void>(
    () => {
      const order = {
        part,
        quantity: typed(quantity),
        wanted,
        options: options.split(/[\s,]+/).filter(Boolean),
        nest,
        alternate: alternate.trim(),
        note: "",
      };
      return answer(client.POST("/api/shop/orders", { body: { ...order, key: askedAs(order) } }));
    },
    (order) => navigate(`/shop/orders/${order.id}`),
  );
  const said = (place: string) => add.error?.problems.find((p) => p.place === place)?.message;
  return (
    <form
      aria-label="A new order"
      className="mb-3 flex flex-wrap items-end gap-x-4 gap-y-2 border-t border-ink bg-paper px-3 py-2"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate();
      }}
    >
      <div className="flex flex-col gap-0.5">
        <span className="text-ink-2">Part</span>
        <PartChoice label="Part" value={part} onKeep={setPart} />
      </div>
      <div className="w-[110px]">
        <Field label="How many" error={said("quantity")}>
          {(p) => (
            <input
              {...p}
              className="field text-right"
              inputMode="decimal"
              value={quantity}
              onChange={(event) => setQuantity(event.target.value)}
            />
          )}
        </Field>
      </div>
      <div className="w-[150px]">
        <Field label="Wanted" error={said("wanted")}>
          {(p) => <DayField {...p} value={wanted} onKeep={setWanted} placeholder="as soon as may be" />}
        </Field>
      </div>
      <div className="w-[86px]">
        <Field label="Alternate">
          {(p) => (
            <input
              {...p}
              className="field"
              placeholder="default"
              value={alternate}
              onChange={(event) => setAlternate(event.target.value)}
            />
          )}
        </Field>
      </div>
      <div className="w-[120px]">
        <Field label="Options">
          {(p) => (
            <input {...p} className="field" value={options} onChange={(event) => setOptions(event.target.value)} />
          )}
        </Field>
      </div>
      <label className="flex min-h-8 items-center gap-1.5">
        <input type="checkbox" checked={nest} onChange={(event) => setNest(event.target.checked)} /> with orders for
        made parts that are not there
      </label>
      <span className="ml-auto flex gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button needs="work orders" look="strong" type="submit" disabled={!part || !quantity.trim() || add.isPending}>
          Open the order
        </Button>
      </span>
      {add.error && (
        <p role="alert" className="w-full text-bad">
          {add.error.problems[0]?.message ?? add.error.message}
        </p>
      )}
    </form>
  );
}
