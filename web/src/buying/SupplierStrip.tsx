import { Word } from "../kit/Word";
import { day, money } from "../lib/number";
import type { Plan } from "./usePlan";

/** What the plan comes to: its total against the bound and against choosing line by line, then supplier by supplier. */
export function SupplierStrip({ plan }: { plan: Plan }) {
  if (plan.total === null) return null;
  const total = Number(plan.total);
  const bound = Number(plan.bound);
  const apart = plan.line_by_line === null ? null : Number(plan.line_by_line);
  const gap = total - bound;
  const most = Math.max(...plan.orders.map((o) => Number(o.goods)), 1);
  return (
    <section aria-label="What the plan comes to" className="flex border-y border-hair bg-paper">
      <div className="w-[250px] shrink-0 border-r border-hair px-3 py-1.5">
        <p className="text-[19px] leading-tight font-semibold">
          {money(total)} <span className="text-[13px] font-normal text-ink-2">{plan.currency}</span>
        </p>
        <p className="text-[12px] text-ink-2">
          {gap < 0.005 ? (
            <>
              proven the cheapest: its <Word of="bound">bound</Word> is the total
            </>
          ) : (
            <>
              at most {money(gap)} from the cheapest (<Word of="bound">bound</Word> {money(bound)})
            </>
          )}
        </p>
        <p className="text-[12px] text-ink-2">
          {apart === null
            ? "line by line there is no plan that is allowed"
            : apart - total < 0.005
              ? "line by line costs the same"
              : `line by line ${money(apart)}: ${money(apart - total)} saved`}
        </p>
        {Number(plan.credit) > 0 && (
          <p className="text-[12px] text-ink-2">with {money(Number(plan.credit))} credited for surplus</p>
        )}
        {plan.without_choices !== null && (
          <p className="text-[12px] text-brass">
            the choices by hand cost {money(total - Number(plan.without_choices))}
          </p>
        )}
        {Object.entries(plan.rates).map(([code, rate]) => (
          <p key={code} className="text-[12px] text-ink-3">
            1 {code} = {rate} {plan.currency} on {day(plan.day)}
          </p>
        ))}
      </div>
      <ul className="flex min-w-0 flex-1 flex-wrap content-start" aria-label="Suppliers">
        {plan.orders.map((order) => (
          <li key={order.supplier} className="w-[192px] border-r border-hair px-3 py-1.5">
            <span className="block truncate font-semibold" title={order.supplier}>
              {order.supplier}
            </span>
            <span className="mt-0.5 block h-[3px] bg-sunk">
              <span className="block h-full bg-blue" style={{ width: `${(100 * Number(order.goods)) / most}%` }} />
            </span>
            <span className="flex justify-between">
              <span className="text-[12px] text-ink-2">
                {order.lines} {order.lines === 1 ? "line" : "lines"}
              </span>
              {money(Number(order.goods))}
            </span>
            {Number(order.freight) > 0 && (
              <span className="flex justify-between text-[12px] text-ink-2">
                freight <span>{money(Number(order.freight))}</span>
              </span>
            )}
            <Minimum order={order} />
          </li>
        ))}
      </ul>
    </section>
  );
}

function Minimum({ order }: { order: Plan["orders"][number] }) {
  if (Number(order.minimum) === 0) return null;
  if (Number(order.missing) === 0)
    return <span className="block text-[12px] text-ink-3">minimum {money(Number(order.minimum))} reached</span>;
  if (order.refused)
    return (
      <span className="block text-[12px] text-bad">
        {money(Number(order.missing))} under the minimum: they take no such order
      </span>
    );
  return (
    <span className="flex justify-between text-[12px] text-brass">
      {money(Number(order.missing))} under the minimum <span>{money(Number(order.charge))}</span>
    </span>
  );
}
