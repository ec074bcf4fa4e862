import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { useSay } from "../kit/Says";
import { changePart, type PartOut, type Refusal, type Schemas } from "../lib/api";
import { day, money, today, typed } from "../lib/number";
import { useReference } from "../lib/session";
import { useUntrue } from "../lib/untrue";
import { Section } from "./Section";

type Price = Schemas["PriceFromDay"];

/** What is paid for a part, from days on: the day of the basis picks the price, and what was true stays what it was. */
export function Prices({ part }: { part: PartOut }) {
  const [from, setFrom] = useState(today());
  const [price, setPrice] = useState("");
  const currency = useReference().data?.currency ?? "";
  const say = useSay();
  const untrue = useUntrue();
  const save = useMutation<PartOut, Refusal, { prices: Price[]; words: string }>({
    mutationFn: ({ prices }) => changePart(part.number, { prices }),
    onSuccess: (_, { words }) => {
      say(words);
      untrue("part");
    },
  });
  const now = today();
  const holds = part.prices.findLast((p) => p.first_day <= now);
  const rows = [{ first_day: "", unit_cost: part.unit_cost ?? "" }, ...part.prices];
  const keep = () => {
    const others = part.prices.filter((p) => p.first_day !== from);
    save.mutate({
      prices: [...others, { first_day: from, unit_cost: typed(price) }],
      words: `${part.number} costs ${price.trim()} from ${day(from)} on.`,
    });
  };
  return (
    <Section title="Prices" beside={`${currency} per ${part.unit}`}>
      <ul className="bg-paper">
        {rows.map((row) => (
          <li
            key={row.first_day}
            className="grid grid-cols-[1fr_auto_72px] items-baseline gap-3 border-b border-hair px-2 py-1"
          >
            <span className="text-ink-2">
              {row.first_day ? `from ${day(row.first_day)}` : part.prices.length > 0 ? "before" : "on every day"}
              {row.first_day === (holds?.first_day ?? "") && <b className="ml-2 text-ink">holds today</b>}
            </span>
            <span className="text-right font-semibold">
              {row.unit_cost === "" ? (
                <span className="font-normal text-brass">missing</span>
              ) : (
                money(Number(row.unit_cost))
              )}
            </span>
            {row.first_day ? (
              <Button
                needs="parts"
                look="quiet"
                className="!min-h-0"
                aria-label={`take away the price from ${day(row.first_day)}`}
                onClick={() =>
                  save.mutate({
                    prices: part.prices.filter((p) => p !== row),
                    words: `Took the price from ${day(row.first_day)} away.`,
                  })
                }
              >
                take away
              </Button>
            ) : (
              <span />
            )}
          </li>
        ))}
      </ul>
      <fieldset
        className="grid grid-cols-[auto_130px_110px_auto] items-center gap-1.5 pt-1.5"
        onKeyDown={(event) => event.key === "Enter" && price.trim() && keep()}
      >
        from
        <DayField
          className="field !min-h-[28px]"
          aria-label="First day of the price"
          value={from}
          onKeep={(iso) => setFrom(iso || today())}
        />
        <input
          className="field !min-h-[28px] text-right"
          aria-label="Price from that day on"
          placeholder="price"
          inputMode="decimal"
          value={price}
          onChange={(event) => setPrice(event.target.value)}
        />
        <Button needs="parts" className="!min-h-[28px]" disabled={!price.trim() || save.isPending} onClick={keep}>
          Keep
        </Button>
      </fieldset>
      {save.error && (
        <p role="alert" className="pt-1 text-bad">
          {save.error.message}
        </p>
      )}
    </Section>
  );
}
