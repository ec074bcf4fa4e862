import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { useSay } from "../../kit/Says";
import { changePart, type PartOut, type Refusal } from "../../lib/api";
import { day, money, typed } from "../../lib/number";
import { useMay } from "../../lib/session";
import { useUntrue } from "../../lib/untrue";
import type { SheetView } from "../../model/wire";

const share = (value: number) => `${(value * 100).toLocaleString("en", { maximumFractionDigits: 1 })}`;

/** The standard and the selling price beside the cost; price, markup and margin each set the other two. */
export function PriceStrip({ view }: { view: SheetView }) {
  const top = view.parts[view.top]!;
  const cost = top.cost ?? 0;
  const price = view.selling_price === null ? null : Number(view.selling_price);
  const may = useMay("parts");
  const say = useSay();
  const untrue = useUntrue();
  const [refused, setRefused] = useState("");
  const keep = useMutation<PartOut, Refusal, string>({
    mutationFn: (selling_price) => changePart(view.sheet.part, { selling_price }),
    onSuccess: () => {
      setRefused("");
      say(`Selling price of ${view.sheet.part} kept.`);
      untrue("selling");
    },
    onError: (error) => setRefused(error.message),
  });
  const set = (text: string, toPrice: (value: number) => number) => {
    const clean = typed(text);
    if (clean === "") return keep.mutate("");
    const value = toPrice(Number(clean));
    if (!Number.isFinite(value) || value < 0) return setRefused(`${text} gives no price; a margin is below 100 %.`);
    keep.mutate(String(Math.round(value * 10_000) / 10_000));
  };
  const input = (label: string, shown: string, toPrice: (value: number) => number, unit: string) => (
    <label className="flex items-baseline gap-1.5">
      <span className="text-ink-2">{label}</span>
      <input
        key={shown}
        className="h-6 w-[70px] border-b border-hair-2 bg-transparent text-right font-semibold"
        inputMode="decimal"
        placeholder="–"
        disabled={!may}
        defaultValue={shown}
        onBlur={(e) => e.target.value !== shown && set(e.target.value, toPrice)}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      <span className="text-ink-3">{unit}</span>
    </label>
  );
  return (
    <section aria-label="Standard and price" className="flex flex-wrap items-baseline gap-x-6 gap-y-1 pb-2">
      {view.standard ? (
        <span className="text-ink-2">
          Standard <b className="text-[15px] text-ink">{money(view.standard.unit)}</b> since{" "}
          {day(view.standard.first_day)},{" "}
          <Link to={`/rounds/${view.standard.round}`} className="text-blue underline">
            {view.standard.name}
          </Link>
        </span>
      ) : (
        <span className="text-ink-2">No standard on this day</span>
      )}
      {input("Selling price", price === null ? "" : String(price), (v) => v, view.currency)}
      {input("markup", price === null || !cost ? "" : share(price / cost - 1), (v) => cost * (1 + v / 100), "%")}
      {input("margin", price === null || !price ? "" : share(1 - cost / price), (v) => cost / (1 - v / 100), "%")}
      {refused && (
        <span role="alert" className="text-bad">
          {refused}
        </span>
      )}
    </section>
  );
}
