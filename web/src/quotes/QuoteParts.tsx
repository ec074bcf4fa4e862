import { useState } from "react";
import type { DataColumn } from "../kit/dataColumns";
import type { Schemas } from "../lib/api";
import { day, money, quantity } from "../lib/number";
import { PartTable } from "../pieces/parts/PartTable";
import type { Quote } from "./states";

type Part = Schemas["QuotedPart"];

const COLUMNS: DataColumn<Part>[] = [
  {
    key: "part",
    title: "Part",
    width: "110px",
    value: (p) => p.part,
    show: (p) => <span className="pn">{p.part}</span>,
  },
  { key: "description", title: "What it is", width: "minmax(160px,1.4fr)", value: (p) => p.description },
  {
    key: "quantity",
    title: "Taken",
    width: "110px",
    value: (p) => Number(p.quantity),
    show: (p) => `${quantity(p.quantity, 2)} ${p.unit}`,
    number: true,
  },
  {
    key: "price",
    title: "Price",
    width: "100px",
    value: (p) => Number(p.price),
    show: (p) => money(Number(p.price)),
    number: true,
  },
  {
    key: "cost",
    title: "Cost",
    width: "110px",
    value: (p) => Number(p.cost),
    show: (p) => money(Number(p.cost)),
    number: true,
    total: true,
    costs: true,
  },
  {
    key: "supplier",
    title: "From",
    width: "minmax(140px,1fr)",
    value: (p) => p.suppliers.join(", ") || null,
    groups: true,
  },
  { key: "source", title: "Source", width: "110px", value: (p) => p.source },
  { key: "offered", title: "Offered on", width: "110px", value: (p) => p.offered, show: (p) => day(p.offered) },
];

const numberOf = (p: Part) => p.part;

/** Every part of one quantity with its price and where it comes from. */
export function QuoteParts({ quote }: { quote: Quote }) {
  const [at, setAt] = useState(0);
  const shown = quote.quantities[at];
  if (!shown) return null;
  return (
    <section aria-label="Parts" className="mt-4 flex h-[420px] flex-col">
      <h2 className="flex items-baseline gap-3 pb-1 font-semibold">
        Parts at
        {quote.quantities.map((q, index) => (
          <button
            key={q.plan}
            type="button"
            aria-pressed={index === at}
            className={`border-b-2 font-normal ${index === at ? "border-blue text-blue" : "border-transparent text-ink-2 hover:text-ink"}`}
            onClick={() => setAt(index)}
          >
            {quantity(q.quantity)} × <span className="pn">{q.part}</span>
          </button>
        ))}
      </h2>
      <PartTable
        numberOf={numberOf}
        name="quoted parts"
        title={`${quote.number} parts`}
        columns={COLUMNS}
        rows={shown.parts}
        sort={{ key: "cost", down: true }}
      />
    </section>
  );
}
