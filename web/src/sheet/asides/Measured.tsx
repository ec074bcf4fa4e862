import { useQuery } from "@tanstack/react-query";
import { type Ref, useState } from "react";
import { Button } from "../../kit/Button";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import type { RUN_BASES } from "../../lib/declared";
import { day, quantity } from "../../lib/number";
import type { OperationValues } from "../../model/change";
import type { OperationRow } from "../../model/wire";

const PER: Record<(typeof RUN_BASES)[number], string> = {
  per_unit: "per unit",
  per_cycle: "per cycle",
  per_lot: "per lot",
};

/** What the last finished orders took at an operation; their mean can become its run time. */
export function Measured({
  operation,
  editable,
  panel,
  onSet,
  onClose,
}: {
  operation: OperationRow;
  editable: boolean;
  panel: Ref<HTMLElement>;
  onSet: (after: OperationValues) => void;
  onClose: () => void;
}) {
  const [last, setLast] = useState("10");
  const wanted = /^\d+$/.test(last) ? Number(last) : 0;
  const found = useQuery<Schemas["MeasuredOut"], Refusal>({
    queryKey: ["measured", operation.id, operation.sequence, operation.run_basis, operation.cycle_quantity, wanted],
    queryFn: () =>
      answer(
        client.GET("/api/finished-orders/measured", { params: { query: { operation: operation.id, last: wanted } } }),
      ),
    enabled: wanted > 0,
    placeholderData: (old) => old,
    staleTime: 0,
  });
  const measured = found.data;
  const mean = measured?.run_minutes ?? null;
  return (
    <section ref={panel} tabIndex={-1} aria-label="Measured times" className="flex flex-col gap-2.5">
      <div className="flex items-baseline justify-between">
        <h2 className="text-[12px] font-semibold text-blue">
          Measured times, operation {operation.sequence} {operation.name}
        </h2>
        <Button look="quiet" className="!min-h-0" onClick={onClose}>
          close
        </Button>
      </div>
      <p>
        Run time now <b>{quantity(operation.run_minutes)} min</b> {PER[operation.run_basis]},{" "}
        {operation.run_from_orders === null
          ? operation.run_expression
            ? "computed from fields"
            : "set by hand"
          : `the mean of ${operation.run_from_orders} finished ${operation.run_from_orders === 1 ? "order" : "orders"}`}
        .
      </p>
      <label className="flex items-center gap-2">
        mean of the last
        <input
          className="field !min-h-[26px] !w-14 text-right"
          inputMode="numeric"
          aria-label="How many finished orders"
          value={last}
          onChange={(event) => setLast(event.target.value)}
        />
        finished orders
      </label>
      {found.error && (
        <p role="alert" className="text-bad">
          {found.error.message}
        </p>
      )}
      {measured && mean === null && (
        <p className="text-ink-3">
          No finished order of this part names operation {operation.sequence}. They are brought in under Work centers.
        </p>
      )}
      {measured && mean !== null && (
        <>
          <p>
            <b className="text-[15px]">{quantity(mean)} min</b> {PER[operation.run_basis]}
            {measured.spread !== null && <> ± {quantity(measured.spread, 3)}</>}, each of {measured.number} of{" "}
            {measured.of} orders counted once, at 100 % efficiency
          </p>
          {measured.by_quantity !== mean && (
            <p>
              <b className="text-[15px]">{quantity(measured.by_quantity)} min</b> {PER[operation.run_basis]} by
              quantity: a large order weighs more
            </p>
          )}
          {editable &&
            [...new Set([mean, measured.by_quantity!])].map((minutes, at) => (
              <Button
                key={minutes}
                look={at === 0 ? "strong" : undefined}
                className="self-start"
                disabled={
                  Number(minutes) === Number(operation.run_minutes) && operation.run_from_orders === measured.number
                }
                onClick={() => onSet({ run_minutes: minutes, run_from_orders: measured.number })}
              >
                Take {quantity(minutes)} min as the run time
              </Button>
            ))}
          <table className="w-full border-t border-ink">
            <thead>
              <tr className="border-b border-hair-2 text-left text-[12px] text-ink-2">
                <th className="font-normal">Order</th>
                <th className="font-normal">Finished</th>
                <th className="text-right font-normal">Units</th>
                <th className="text-right font-normal">Run, min</th>
                <th className="text-right font-normal">{PER[operation.run_basis]}</th>
              </tr>
            </thead>
            <tbody>
              {measured.orders.map((order) => (
                <tr key={order.order} className="border-b border-hair">
                  <td className="pn">{order.order}</td>
                  <td>{day(order.finished_on)}</td>
                  <td className="text-right">{quantity(order.quantity)}</td>
                  <td className="text-right">{quantity(order.run_minutes, 1)}</td>
                  <td className="text-right">{quantity(order.each, 3)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </section>
  );
}
