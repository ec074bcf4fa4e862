import { day, quantity } from "../lib/number";
import type { NeedWhole } from "./usePlan";

function Row({ words, note, value, strong }: { words: string; note?: string; value: string; strong?: boolean }) {
  return (
    <>
      <dt className={strong ? "font-semibold" : "text-ink-2"}>
        {words}
        {note && <span className="text-[12px] text-ink-3"> {note}</span>}
      </dt>
      <dd className={`text-right ${strong ? "font-semibold" : ""}`}>{value}</dd>
    </>
  );
}

/** How a need came to its quantity: what each build takes, less what is there, in the unit it is bought in. */
export function NeedSum({ need }: { need: NeedWhole }) {
  const per = Number(need.per_buying_unit);
  const left = need.left.reduce((sum, l) => sum + Number(l.quantity), 0);
  return (
    <dl className="mt-1 grid grid-cols-[1fr_auto] gap-x-3">
      {need.asked_by.map(({ words, day: by, quantity: q }) => (
        <Row key={`${words} ${by}`} words={words} note={by ? `by ${day(by)}` : undefined} value={quantity(q)} />
      ))}
      {Number(need.stock) > 0 && <Row words="in stock" value={`− ${quantity(need.stock)}`} />}
      {need.orders.map(({ words: order, day: due, quantity: q }) => (
        <Row
          key={order}
          words={`on order ${order}`}
          note={due ? `due ${day(due)}` : "without a day"}
          value={`− ${quantity(q)}`}
        />
      ))}
      <div className="col-span-2 my-0.5 border-t border-ink" />
      <Row words={`left to buy, ${need.unit}`} value={quantity(left)} strong={need.unit === need.buying_unit} />
      {need.unit !== need.buying_unit && (
        <Row
          words={`in ${need.buying_unit}`}
          note={`${quantity(per)} ${need.unit} each`}
          value={quantity(need.quantity)}
          strong
        />
      )}
    </dl>
  );
}
