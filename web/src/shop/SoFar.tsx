import { Bridge } from "../kit/Bridge";
import type { Schemas } from "../lib/api";
import { money } from "../lib/number";
import type { Order } from "./states";

/** What can be said of an order that still runs; how many come out of it is not known yet, so nothing is said of yield and lot. */
const KNOWN = [
  "material price",
  "labor rate",
  "labor efficiency",
  "machine and overhead",
  "outside price",
  "substitution",
];

/** Where a running order is heading: expected, what has moved so far, and what it comes to if the rest goes by its plan. */
export function SoFar({ order, said }: { order: Order; said: Schemas["CameToOut"] }) {
  const expected = Number(order.expected ?? 0);
  const total = Number(order.spent) + Number(order.rest ?? 0);
  const steps = KNOWN.map((word) => ({ word, value: Number(said.by_cause[word] ?? 0) }));
  const beyond = total - expected - steps.reduce((sum, s) => sum + s.value, 0);
  const all = [...steps, { word: "quantities", value: Math.abs(beyond) < 0.005 ? 0 : beyond }];
  return (
    <section aria-label="Where it is heading" className="pt-5">
      <h2 className="pb-1 font-semibold">Where it is heading</h2>
      <p className="pb-2 text-ink-2">
        {money(Number(order.spent))} spent, {money(Number(order.rest ?? 0))} still to come if the rest goes by its plan.
      </p>
      <Bridge
        before={expected}
        after={total}
        steps={all.filter((s) => s.value !== 0)}
        beforeWord="expected"
        afterWord="foreseen"
        width={520}
        label={142}
      />
    </section>
  );
}
